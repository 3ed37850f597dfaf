import { serve } from '@hono/node-server';
import { Hono } from 'hono';
import { rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import { PlainError, codeOf, messageOf } from '../platform/plain-error.ts';
import { keepLooking } from '../platform/keep-looking.ts';
import { onlyOwnPages } from '../platform/http/guard.ts';
import { lookWhereDue } from '../acquire/ways-in/followers.ts';
import { openApplication } from './application.ts';

export interface RunningServer {
  url: string;
  close(): Promise<void>;
}

const loopMs = 1000;

/**
 * Serves on loopback, and works off the queue.
 * @throws PlainError when the port is taken
 */
export async function startServer(
  { pool, address, folder }: { pool: Pool; address: DatabaseAddress; folder: DataFolder },
  port: number,
  reportTo: (message: string) => void,
): Promise<RunningServer> {
  let isClosing = false;
  // What fails since the server is going down is no news.
  const report = (message: string): void => (isClosing ? undefined : reportTo(message));
  const application = openApplication({ pool, address, folder }, { report });
  const { tables, library, spans, runner } = application;
  tables.clearUnfinished();
  const guarded = new Hono()
    .use('*', onlyOwnPages(port))
    .all('*', (request) => application.app.fetch(request.req.raw, request.env));
  const server = await new Promise<Server>((resolve, reject) => {
    const starting = serve({ fetch: guarded.fetch, port, hostname: '127.0.0.1' }, () =>
      resolve(starting as Server),
    );
    starting.on('error', (error: Error) => {
      reject(
        codeOf(error) === 'EADDRINUSE'
          ? new PlainError(`Port ${port} is taken: choose another with --port.`)
          : error,
      );
    });
  });
  const url = `http://127.0.0.1:${port}`;
  const sign = join(folder.root, 'server.json');
  writeFileSync(sign, JSON.stringify({ url, pid: process.pid }), { mode: 0o600 });
  runner.look();
  const failed =
    (what: string) =>
    (error: unknown): void =>
      report(`${what}: ${messageOf(error)}`);
  const loops = [
    keepLooking(
      async () => {
        if ((await lookWhereDue(pool)) > 0) runner.look();
      },
      loopMs,
      failed('What is followed could not be looked at'),
    ),
    keepLooking(
      async () => {
        if (await spans.get('warm', null)) runner.look();
      },
      loopMs,
      failed('The findings of the newest builds could not be made'),
    ),
    keepLooking(() => library.warm(), loopMs, failed('The library could not be made ready')),
  ];
  return {
    url,
    async close() {
      isClosing = true;
      for (const stop of loops) stop();
      rmSync(sign, { force: true });
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      server.closeAllConnections();
      await Promise.all([closed, application.close()]);
    },
  };
}
