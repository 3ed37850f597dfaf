import { once } from 'node:events';
import { claimFolder } from '../server/platform/http/claim-folder.ts';
import { startServer } from '../server/main/serve.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { dataPath, runningServer } from './connection.ts';
import type { CommonOptions } from './options.ts';
import { withDatabase, type Session } from './with-database.ts';

export interface ServeOptions extends CommonOptions {
  port: number;
}

export async function serveCommand({ port, data }: ServeOptions): Promise<void> {
  await serve(dataPath(data), port, () => Promise.resolve(null));
}

/** Serves until Ctrl-C. `prepare` runs before the server is open; what it starts is closed with it. */
export async function serve(
  data: string,
  port: number,
  prepare: (session: Session) => Promise<{ close(): Promise<void> } | null>,
): Promise<void> {
  const other = await runningServer(data);
  if (other) throw new PlainError(`A server runs on ${data} already, at ${other}.`);
  await withDatabase(data, async (session) => {
    const release = claimFolder(session.folder.root);
    let beside: { close(): Promise<void> } | null = null;
    try {
      beside = await prepare(session);
      if (session.signal.aborted) return;
      const report = (message: string): void => void process.stderr.write(`${message}\n`);
      const server = await startServer(session, port, report);
      session.watchDatabase(report);
      process.stdout.write(`Worvel is at ${server.url} (Ctrl-C stops it)\n`);
      if (!session.signal.aborted) await once(session.signal, 'abort');
      await server.close();
    } finally {
      await beside?.close();
      release();
    }
  });
}
