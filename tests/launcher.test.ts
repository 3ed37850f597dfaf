import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import {
  existsSync,
  mkdtempSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
  chmodSync,
  mkdirSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { applicationRoot } from '../server/platform/application-root.ts';
import { isAlive } from '../server/platform/process-mark.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const launcher = join(applicationRoot, 'worvel');

describe('The launcher', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-path-'));
  after(() => rmSync(folder, { recursive: true, force: true }));

  /** A PATH with these programs alone; `script` stands in for Node.js. */
  const pathOf = (name: string, programs: readonly string[], script?: string): string => {
    const path = join(folder, name);
    mkdirSync(path);
    for (const program of programs) {
      const found = spawnSync('sh', ['-c', `command -v ${program}`], { encoding: 'utf8' }).stdout.trim();
      symlinkSync(found, join(path, program));
    }
    if (script !== undefined) {
      writeFileSync(join(path, 'node'), script);
      chmodSync(join(path, 'node'), 0o755);
    }
    return path;
  };
  const run = (path: string, ...args: string[]) =>
    spawnSync('/bin/bash', [launcher, ...args], { encoding: 'utf8', env: { PATH: path } });
  const basics = ['bash', 'dirname', 'readlink', 'id', 'cmp', 'find', 'env', 'npm'];

  it('names the programs that are missing where there is no apt-get', () => {
    const { status, stderr } = run(pathOf('bare', [...basics, 'node']), 'test');
    expect(status).to.equal(1);
    expect(stderr).to.match(
      /^These programs are missing, and there is no apt-get to install them with: .*chromium.*\.\n$/,
    );
  });

  it('refuses a Node.js that is too old', () => {
    const old = pathOf('old', basics, '#!/bin/sh\n[ "$1" = --version ] && echo v18.0.0\nexit 1\n');
    const { status, stderr } = run(old, 'test');
    expect(status).to.equal(1);
    expect(stderr).to.equal('Node.js 20.19 or later is needed; this is v18.0.0.\n');
  });

  it('runs from wherever one stands, and by a link', () => {
    const link = join(folder, 'elsewhere');
    symlinkSync(launcher, link);
    const { status, stdout } = spawnSync(link, ['help'], { encoding: 'utf8', cwd: folder });
    expect(status).to.equal(0);
    expect(stdout).to.include('index [options] [source]');
  });
});

describe('The demo', () => {
  const house = new TestHouse();
  const port = testPort(6);
  before(() => {
    mkdirSync(house.data);
  });
  after(() => rmSync(house.root, { recursive: true, force: true }));

  const database = (): string =>
    (JSON.parse(readFileSync(join(house.data, 'database', 'running.json'), 'utf8')) as { mark: string }).mark;
  const start = async () => {
    const child = house.start(['demo', '--port', String(port)]);
    let output = '';
    child.stdout?.on('data', (piece: Buffer) => (output += piece.toString('utf8')));
    for (
      const end = Date.now() + 300_000;
      Date.now() < end && !output.includes('Worvel is at');
      await sleep(50)
    )
      if (child.exitCode !== null) throw new Error('the demo ended');
    const exit = new Promise<number | null>((resolve) => child.on('exit', (code) => resolve(code)));
    return { child, exit, output: () => output };
  };

  it('makes and indexes its builds once, and Ctrl-C stops server and database', async function () {
    // All of the demo's builds, beside the other tests of a busy machine.
    this.timeout(330_000);
    const { child, exit, output } = await start();
    expect(output()).to.include('Indexing build 0.1').and.include('Indexing build 0.2');
    const mark = database();
    expect(isAlive(mark)).to.equal(true);
    child.kill('SIGINT');
    expect(await exit).to.equal(0);
    expect(isAlive(mark)).to.equal(false);
    expect(existsSync(join(house.data, 'server.json'))).to.equal(false);
  });

  it('loses nothing: the next start finds it all, after a kill too', async () => {
    for (const signal of ['SIGKILL', 'SIGINT'] as const) {
      const { child, exit, output } = await start();
      expect(output()).not.to.include('Indexing');
      const titles = (await (await fetch(`http://127.0.0.1:${port}/api/titles`)).json()) as {
        channels: { builds: unknown[] }[];
      }[];
      expect(titles[0]?.channels[0]?.builds).to.have.length(2);
      expect(await (await fetch(`http://127.0.0.1:${port}/api/entries?channel=1`)).json()).to.include({
        total: 9,
      });
      child.kill(signal);
      await exit;
    }
    expect(isAlive(database())).to.equal(false);
  });
});
