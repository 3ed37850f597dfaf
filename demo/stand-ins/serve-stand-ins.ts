import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import { join } from 'node:path';
import { keys } from '../mossline-ferry.ts';
import { Depot } from './depot.ts';
import { Device, discPath } from './device.ts';
import { KeyPost } from './key-post.ts';

export interface StandIns {
  depot: string;
  device: string;
  keyPost: string;
  close(): Promise<void>;
}

/** What the demo's disc does not give, or gives only when asked again: sectors of 2048 bytes. */
const faults = {
  bytesPerSecond: 3_000_000,
  dead: new Set([700, 701, 1200]),
  tired: new Set([300, 900, 901, 902]),
};
/** The key of a build comes this long after the build. */
const keyDelayMs = 20_000;

/** Starts the simulated services that the demo brings builds in from, on the ports after its own. */
export async function serveStandIns(folder: string, port: number): Promise<StandIns> {
  const depot = new Depot(join(folder, 'depot'));
  // What the demo has indexed already.
  await depot.publishUpTo('0.2');
  await Device.makeImage(discPath(folder));
  const device = new Device(discPath(folder), faults);
  const post = new KeyPost(keys, (build) => depot.published[build], keyDelayMs);
  const servers = await Promise.all([
    listen(port, (request, response) => depot.answer(request, response)),
    listen(port + 1, (request, response) => device.answer(request, response)),
    listen(port + 2, (request, response) => post.answer(request, response)),
  ]);
  return {
    depot: `http://127.0.0.1:${port}`,
    device: `http://127.0.0.1:${port + 1}`,
    keyPost: `http://127.0.0.1:${port + 2}`,
    async close() {
      await Promise.all(
        servers.map((server) => {
          server.closeAllConnections();
          return new Promise((resolve) => server.close(resolve));
        }),
      );
    },
  };
}

/** @throws Error when the port is taken */
export async function listen(
  port: number,
  answer: (request: IncomingMessage, response: ServerResponse) => Promise<void> | void,
): Promise<Server> {
  const server = createServer((request, response) => {
    Promise.resolve(answer(request, response)).catch((error: unknown) => {
      response.writeHead(500).end(`${String(error)}\n`);
    });
  });
  return new Promise((resolve, reject) => {
    server.on('error', (error: NodeJS.ErrnoException) =>
      reject(
        error.code === 'EADDRINUSE'
          ? new Error(`Port ${port}, for a stand-in of the demo, is taken: choose another with --port.`)
          : error,
      ),
    );
    server.listen(port, '127.0.0.1', () => resolve(server));
  });
}
