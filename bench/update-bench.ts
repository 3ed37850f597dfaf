import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { applicationRoot } from '../server/platform/application-root.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run, waitFor } from './running.ts';
import { BenchTree } from './tree.ts';

const worvel = join(applicationRoot, 'worvel');
const asked = {
  firstPageSeconds: { what: 'from the last byte of an update to the first page of findings, s', most: 5 },
};

/**
 * The day of an update: 100,000 files lie in a folder and in archives, 7 % of them change in place, and somebody waits before
 * the screen for what is new.
 */
export async function benchUpdate(say: (line: string) => void, files = 100_000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-update-'));
  const game = join(work, 'game');
  const port = 14_000 + (process.pid % 20_000);
  const url = `http://127.0.0.1:${port}`;
  const tree = new BenchTree({ files, bytes: files * 10 * 1024, filesPerArchive: 250 });
  say(`Making ${files} files of ${(tree.bytes / 1024 ** 2).toFixed(0)} MiB in all`);
  tree.writeBuild(game);
  const data = join(work, 'data');
  const server = spawn(worvel, ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    await waitFor(`${url}/api/health`);
    const index = (build: string, ...more: string[]) =>
      run(worvel, ['index', game, '--title', 'Bench', '--build', build, '--json', '--data', data, ...more]);
    const first = await index('1');
    say(`The first build was read after ${first.seconds.toFixed(1)} s`);
    const before = tree.state();
    const { changed, moved, added, removed } = tree.advance();
    tree.writeBuild(game, before);
    await run('sync', []);
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(url);
    const begin = performance.now();
    const arrival = await index('2', '--arrive');
    await page.goto(`${url}/Bench/main/findings?from=1&to=2`);
    await page.getByRole('listbox', { name: 'Findings' }).getByRole('option').first().waitFor();
    const firstPageSeconds = (performance.now() - begin) / 1000;
    say(
      `${changed + moved + added + removed} differences: arrived after ${arrival.seconds.toFixed(2)} s, on the screen after ${firstPageSeconds.toFixed(2)} s`,
    );
    return resultOf('update', { files, arrivalSeconds: arrival.seconds, firstPageSeconds }, {}, asked);
  } finally {
    await browser.close();
    const ended = new Promise((resolve) => server.on('exit', resolve));
    server.kill('SIGINT');
    await ended;
    rmSync(work, { recursive: true, force: true });
  }
}
