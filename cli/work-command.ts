import { once } from 'node:events';
import { Runner } from '../server/jobs/runner.ts';
import { dataPath } from './connection.ts';
import type { CommonOptions } from './options.ts';
import { withDatabase } from './with-database.ts';

/** Works off the queue beside the server, until Ctrl-C: one more process, on any machine that reaches database and store. */
export async function workCommand({ data }: CommonOptions): Promise<void> {
  await withDatabase(dataPath(data), async ({ pool, address, folder, signal, watchDatabase }) => {
    const report = (message: string): void => void process.stderr.write(`${message}\n`);
    watchDatabase(report);
    const runner = new Runner(pool, { address, folder }, { report });
    runner.look();
    process.stdout.write(`Working on ${folder.root} (Ctrl-C stops it)\n`);
    if (!signal.aborted) await once(signal, 'abort');
    await runner.close();
  });
}
