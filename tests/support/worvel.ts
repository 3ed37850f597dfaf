import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { parseArgs } from 'node:util';
import { connectHere, connectToServer, type Connection } from '../../cli/connection.ts';
import { indexBuild, requestOf } from '../../cli/index-command.ts';
import type { IndexLine } from '../../contract/builds.ts';
import type { FindingLine, Summary } from '../../contract/findings.ts';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { openDataFolder, type DataFolder } from '../../server/platform/data-folder.ts';
import { openPool, type DatabaseAddress, type Pool } from '../../server/platform/database/pool.ts';
import { migrate } from '../../server/platform/database/migrate.ts';
import { openApplication, type Application } from '../../server/main/application.ts';
import { shareDatabase } from '../../server/platform/database/private-mariadb.ts';
import { putDemoBuild } from './demo-builds.ts';
import { copyDemoHouse, type DemoHouse } from './demo-house.ts';
import { addressUrl, createDatabase, dropDatabase } from './shared-database.ts';

export interface Outcome {
  code: number;
  output: string;
  errors: string;
}

/** Of the options of `worvel index` those that tests use. */
const indexOptions = {
  all: { type: 'boolean' },
  arrive: { type: 'boolean' },
  replace: { type: 'boolean' },
  only: { type: 'string', multiple: true },
  without: { type: 'string', multiple: true },
  root: { type: 'string' },
  platform: { type: 'string' },
} as const;

const program = join(applicationRoot, 'dist', 'node', 'cli.js');

/**
 * A data folder of its own with a database, for as long as a group of tests lasts. The database lies in the MariaDB that all
 * tests share, unless the tests are about MariaDB itself.
 */
export class TestHouse {
  private static count = 0;
  private readonly hasOwnMariadb: boolean;
  readonly root = mkdtempSync(join(tmpdir(), 'worvel-test-'));
  readonly data = join(this.root, 'data');
  folder!: DataFolder;
  pool!: Pool;
  /** In the MariaDB that is shared; null where the data folder has one of its own. */
  private address: DatabaseAddress | null = null;
  private ownAddress: DatabaseAddress | null = null;
  private release: () => Promise<void> = () => Promise.resolve();
  private children: ChildProcess[] = [];
  private application: Application | null = null;
  private server: { child: ChildProcess; port: number } | null = null;
  /** All that the commands wrote. */
  printed = '';
  /** A port of its own. */
  readonly port = testPort(10 + (TestHouse.count++ % 30));

  constructor({ hasOwnMariadb = false } = {}) {
    this.hasOwnMariadb = hasOwnMariadb;
  }

  async open(): Promise<void> {
    this.folder = openDataFolder(this.data);
    if (this.hasOwnMariadb) return this.connect();
    const address = await createDatabase();
    this.address = address;
    this.release = () => dropDatabase(address);
    this.pool = openPool(address, 4);
  }

  private async connect(): Promise<void> {
    const database = await shareDatabase(this.folder);
    this.release = () => database.release();
    this.ownAddress = database.address;
    this.pool = openPool(database.address, 4);
  }

  /** Connects once more, after the database has been away. */
  async reopen(): Promise<void> {
    await this.pool.end().catch(() => undefined);
    await this.connect();
  }

  async close(): Promise<void> {
    for (const child of this.children) {
      if (child.exitCode !== null || child.signalCode !== null) continue;
      child.kill('SIGINT');
      await new Promise((resolve) => child.on('exit', resolve));
    }
    await this.application?.close();
    await this.pool.end();
    await this.release();
    rmSync(this.root, { recursive: true, force: true });
  }

  /** Ends the server that was started last: commands do their work themselves from then on. */
  async stopServer(): Promise<void> {
    const { server } = this;
    if (!server) throw new Error('stopServer: no server was started');
    this.server = null;
    const ended = new Promise((resolve) => server.child.on('exit', resolve));
    server.child.kill('SIGINT');
    await ended;
  }

  /** Kills the server that was started last, as a crash would, and starts it again after a while. */
  async restart(awayMs = 0): Promise<void> {
    const server = this.server;
    if (!server) throw new Error('restart: no server was started');
    const ended = new Promise((resolve) => server.child.on('exit', resolve));
    server.child.kill('SIGKILL');
    await ended;
    await sleep(awayMs);
    await this.serve(server.port);
  }

  /** Commands and servers that were started here. */
  get childProcesses(): readonly ChildProcess[] {
    return this.children;
  }

  /** Where the database is that all groups of tests share. */
  get databaseAddress(): DatabaseAddress {
    if (!this.address) throw new Error('databaseAddress: this house has a MariaDB of its own');
    return this.address;
  }

  path(...parts: string[]): string {
    return join(this.root, ...parts);
  }

  start(args: readonly string[], environment: NodeJS.ProcessEnv = {}): ChildProcess {
    // Before what stands for words of a query.
    const end = args.includes('--') ? args.indexOf('--') : args.length;
    const data = args.includes('--data') ? [] : ['--data', this.data];
    const options = [...args.slice(0, end), ...data, ...args.slice(end)];
    const child = spawn(process.execPath, [program, ...options], {
      stdio: ['pipe', 'pipe', 'pipe'],
      env: {
        ...process.env,
        ...(this.address ? { WORVEL_DATABASE_URL: addressUrl(this.address) } : {}),
        ...environment,
      },
    });
    for (const stream of [child.stdout, child.stderr])
      stream.on('data', (piece: Buffer) => (this.printed += piece.toString('utf8')));
    this.children.push(child);
    return child;
  }

  /** Runs a command to its end. */
  async run(...args: string[]): Promise<Outcome> {
    return this.runWith('', ...args);
  }

  /** The same, with something on its standard input. */
  async runWith(input: string, ...args: string[]): Promise<Outcome> {
    const child = this.start(args);
    child.stdin?.end(input);
    let output = '';
    let errors = '';
    child.stdout?.on('data', (piece: Buffer) => (output += piece.toString('utf8')));
    child.stderr?.on('data', (piece: Buffer) => (errors += piece.toString('utf8')));
    const code = await new Promise<number>((resolve) => child.on('close', (status) => resolve(status ?? -1)));
    return { code, output, errors };
  }

  /** Both builds of the demo, indexed: once for all groups of tests, each of which has a copy. Before anything else is indexed. */
  async indexDemo(): Promise<void> {
    const into = this.asDemoHouse;
    const source = new TestHouse();
    await copyDemoHouse(async () => {
      await source.open();
      await source.indexDemoItself();
      await source.application?.close();
      source.application = null;
      return source.asDemoHouse;
    }, into).finally(() => source.folder && source.close());
  }

  private get asDemoHouse(): DemoHouse {
    const address = this.address ?? this.ownAddress;
    if (!address) throw new Error('indexDemo: the house is not open');
    return { root: this.root, data: this.data, place: this.folder.place, address };
  }

  private async indexDemoItself(): Promise<void> {
    for (const label of ['0.1', '0.2'] as const) {
      await putDemoBuild(label, this.path(label));
      await this.index(this.path(label), 'Mossline Ferry', label);
    }
  }

  /** Indexes as the command does, by its options. Where no server runs, the application is kept from one build to the next. */
  async index(source: string, title: string, build: string, ...more: string[]): Promise<IndexLine> {
    if (this.hasOwnMariadb) return this.indexByCommand(source, title, build, ...more);
    const { values } = parseArgs({ args: more, options: indexOptions });
    const { all, replace, arrive, only = [], without = [], root, platform } = values;
    const request = requestOf(source, {
      ...{ title, build, channel: 'main', only, without, key: [] },
      ...(all && { all: true as const }),
      ...(replace && { replace: true as const }),
      ...(root !== undefined && { root }),
      ...(platform !== undefined && { platform }),
    });
    const line = await indexBuild(await this.connection(), request, {
      ...(arrive && { arrive: true as const }),
      onProgress: () => undefined,
    });
    if (!line) throw new Error('index came to nothing');
    return line;
  }

  /** The same by a process of its own: for what several do at once. */
  async indexByCommand(source: string, title: string, build: string, ...more: string[]): Promise<IndexLine> {
    const options = ['--title', title, '--build', build, '--json', ...more];
    const { code, output, errors } = await this.run('index', source, ...options);
    if (code !== 0) throw new Error(`index ended with ${code}: ${errors}`);
    return JSON.parse(output) as IndexLine;
  }

  /** The server that runs here, or an application in this process. */
  async connection(): Promise<Connection> {
    if (this.server) return connectToServer(`http://127.0.0.1:${this.server.port}`);
    if (!this.application) {
      await migrate(this.pool);
      const { pool, folder, databaseAddress: address } = this;
      const report = (message: string): void => void (this.printed += `${message}\n`);
      this.application = openApplication({ pool, folder, address }, { report, isForOneCommand: true });
    }
    return connectHere(this.application, new AbortController().signal);
  }

  async diff(
    title: string,
    from: string,
    to: string,
  ): Promise<{ findings: FindingLine[]; summary: Summary }> {
    const span = new URLSearchParams({ title, channel: 'main', from, to, evidence: '0' });
    const lines = (await this.diffLines(`diff?${span}`))
      .trimEnd()
      .split('\n')
      .map((line) => JSON.parse(line) as FindingLine | { summary: Summary });
    const last = lines.pop();
    if (!last || !('summary' in last)) throw new Error('diff did not close with a summary');
    return { findings: lines as FindingLine[], summary: last.summary };
  }

  private async diffLines(path: string): Promise<string> {
    if (!this.hasOwnMariadb) return (await this.connection()).getText(path);
    const named = [...new URLSearchParams(path.slice('diff?'.length))].filter(
      ([name]) => name !== 'evidence',
    );
    const { code, output, errors } = await this.run(
      'diff',
      '--json',
      ...named.flatMap(([name, value]) => [`--${name}`, value]),
    );
    if (code !== 0) throw new Error(`diff ended with ${code}: ${errors}`);
    return output;
  }

  /** Starts a server and waits until it answers. */
  async serve(port: number, command = 'serve'): Promise<string> {
    const child = this.start([command, '--port', String(port)]);
    this.server = { child, port };
    let errors = '';
    child.stderr?.on('data', (piece: Buffer) => (errors += piece.toString('utf8')));
    const url = `http://127.0.0.1:${port}`;
    for (const end = Date.now() + 90_000; Date.now() < end; await sleep(100)) {
      if (child.exitCode !== null) throw new Error(`the server ended: ${errors}`);
      try {
        if ((await fetch(`${url}/api/health`)).ok) return url;
      } catch {
        // Not listening yet.
      }
    }
    throw new Error('the server did not start');
  }
}

/**
 * A port that differs between test files and between runs; below those that the system gives to
 * outgoing connections (from 32768 on), since one of these may be in use at any moment.
 * @param offset 0 to 9; those from 10 on are the houses' own
 */
export function testPort(offset: number): number {
  return 12_000 + (process.pid % 500) * 40 + offset;
}
