import { serve } from '@hono/node-server';
import { Hono } from 'hono';
import { rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { join } from 'node:path';
import type { DataFolder } from '../platform/data-folder.ts';
import type { DatabaseAddress, Pool } from '../platform/database/pool.ts';
import { PlainError, codeOf, messageOf } from '../platform/plain-error.ts';
import { onlyOwnPages } from '../platform/http/guard.ts';
import { lookWhereDue } from '../acquire/ways-in/followers.ts';
import { openApplication } from './application.ts';

export interface RunningServer {
  url: string;
  close(): Promise<void>;
}

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
  const following = setInterval(() => {
    lookWhereDue(pool)
      .then((started) => (started > 0 ? runner.look() : undefined))
      .catch((error: unknown) => report(`What is followed could not be looked at: ${messageOf(error)}`));
  }, 1000);
  let isMaking = false;
  const warming = setInterval(() => {
    if (isMaking) return;
    isMaking = true;
    spans
      .ask('warm', null)
      .then((hasWork) => (hasWork ? runner.look() : undefined))
      .catch((error: unknown) =>
        report(`The findings of the newest builds could not be made: ${messageOf(error)}`),
      )
      .finally(() => (isMaking = false));
  }, 1000);
  let isWarming = false;
  const searching = setInterval(() => {
    if (isWarming) return;
    isWarming = true;
    library
      .warm()
      .catch((error: unknown) => report(messageOf(error)))
      .finally(() => (isWarming = false));
  }, 1000);
  return {
    url,
    async close() {
      isClosing = true;
      clearInterval(searching);
      clearInterval(warming);
      clearInterval(following);
      rmSync(sign, { force: true });
      const closed = new Promise<void>((resolve) => server.close(() => resolve()));
      server.closeAllConnections();
      await Promise.all([closed, application.close()]);
    },
  };
}
