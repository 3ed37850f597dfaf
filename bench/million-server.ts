import { spawn, type ChildProcess } from 'node:child_process';
import { request } from 'node:http';
import { join } from 'node:path';
import { applicationRoot } from '../server/platform/application-root.ts';
import { migrate } from '../server/platform/database/migrate.ts';
import type { Pool } from '../server/platform/database/pool.ts';
import { insertBuild } from './million-paths.ts';
import { waitFor, withPool } from './running.ts';

/** A server of its own on a build of many paths. */
export class MillionServer {
  readonly url: string;
  private readonly data: string;
  private readonly port = 12_000 + (process.pid % 20_000);
  private server: ChildProcess | null = null;

  constructor(data: string) {
    this.data = data;
    this.url = `http://127.0.0.1:${this.port}`;
  }

  /** Process of the server, while it runs. */
  get processes(): number[] {
    return this.server?.pid ? [this.server.pid] : [];
  }

  /** @param hasMentions whether some of the texts name models */
  async prepare(
    count: number,
    hasMentions = false,
    more: (pool: Pool) => Promise<void> = async () => undefined,
  ): Promise<void> {
    await this.withPool(async (pool) => {
      await migrate(pool);
      await insertBuild(pool, 'Search', count, hasMentions);
      await more(pool);
    });
  }

  /** Does something with the database, beside the server where that runs. */
  async withPool(work: (pool: Pool) => Promise<void>): Promise<void> {
    await withPool(this.data, work);
  }

  async serve(): Promise<void> {
    const args = ['serve', '--port', String(this.port), '--data', this.data];
    this.server = spawn(join(applicationRoot, 'worvel'), args, { stdio: 'ignore' });
    await waitFor(`${this.url}/api/health`);
  }

  async close(): Promise<void> {
    const { server } = this;
    if (!server) return;
    this.server = null;
    const ended = new Promise((resolve) => server.on('exit', resolve));
    server.kill('SIGINT');
    await ended;
  }

  /** Asks about the build and takes the time, in seconds. One connection is kept, as a browser keeps it. */
  async timed(path: string, query: Readonly<Record<string, string>>): Promise<number> {
    const begin = performance.now();
    await this.ask(path, query);
    return (performance.now() - begin) / 1000;
  }

  private ask(path: string, query: Readonly<Record<string, string>>): Promise<void> {
    return new Promise((resolve, reject) => {
      const asked = new URLSearchParams({ channel: '1', build: '1', ...query });
      const sent = request(`${this.url}/api/${path}?${asked}`, (answer) => {
        answer.resume();
        answer.on('end', () =>
          answer.statusCode === 200
            ? resolve()
            : reject(new Error(`${path} ${asked}: ${answer.statusCode ?? 0}`)),
        );
      });
      // A connection that nobody used for a while may be closed while it is taken up again.
      sent.on('error', (error) => (sent.reusedSocket ? resolve(this.ask(path, query)) : reject(error)));
      sent.end();
    });
  }
}
