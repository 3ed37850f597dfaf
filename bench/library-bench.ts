import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from 'playwright-core';
import { seeded } from '../demo/seeded.ts';
import { MillionServer } from './million-server.ts';
import { manyPaths } from './million-paths.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run } from './running.ts';

const scrolledFrames = 240;

/**
 * The library over a million paths: folders and their first rows, orders, links, families and proposals through HTTP, and
 * the first rows and scrolling in Chromium. Beside it `awk` and `sort` over a file that lists the same paths.
 */
export async function benchLibrary(say: (line: string) => void, count = 1_000_000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-library-'));
  const house = new MillionServer(join(work, 'data'));
  try {
    say(`Putting ${count} paths into a database`);
    await house.prepare(count, true);
    const listing = join(work, 'paths.txt');
    const paths = [...manyPaths(count)];
    writeFileSync(listing, `${paths.map((path) => `${path.length * 100}\t${path}`).join('\n')}\n`);
    await house.serve();
    await house.timed('assets', { text: 'heron' });
    const folders = await house.timed('folder', {});
    say(`The folders of the build: ${folders.toFixed(2)} s after a start`);
    const random = seeded(41);
    const rows: number[] = [];
    for (let round = 0; round < 60; round++) {
      const path = paths[Math.floor(random() * count)] ?? '';
      rows.push(await house.timed('folder', { path: path.slice(0, path.lastIndexOf('/')), limit: '200' }));
    }
    const sorted = await house.timed('assets', { text: 'kind:model', sort: 'size', down: '1' });
    const deepPage = await house.timed('assets', {
      text: 'kind:model',
      sort: 'size',
      down: '1',
      offset: String(Math.floor(count / 16)),
    });
    const theirFolders = (
      await run('sh', [
        '-c',
        `awk -F/ '{ n[$2]++; s[$2] += $1 } END { for (k in n) print k, n[k], s[k] }' "$0" > /dev/null`,
        listing,
      ])
    ).seconds;
    const theirSort = (
      await run('sh', ['-c', `grep -F .glb "$0" | sort -rn | head -200 > /dev/null`, listing])
    ).seconds;
    const links = await house.timed('references/missing', {});
    const families = await house.timed('families', {});
    const proposals = await house.timed('names/proposals', {});
    const seen = await inBrowser(house.url, say);
    const at = (values: number[], share: number): number =>
      values.sort((a, b) => a - b)[Math.floor(values.length * share)] ?? 0;
    return resultOf(
      'library',
      {
        paths: count,
        folderMedianMilliseconds: at(rows, 0.5) * 1000,
        folderP95Milliseconds: at(rows, 0.95) * 1000,
        sortedSeconds: sorted,
        deepPageMilliseconds: deepPage * 1000,
        linksSeconds: links,
        familiesSeconds: families,
        proposalsSeconds: proposals,
        ...seen,
      },
      { foldersToAwk: folders / theirFolders, sortedToSort: sorted / theirSort },
      {
        firstRowsMilliseconds: { what: 'from a click to the first rows, ms', most: 300 },
        scriptMillisecondsPerFrame: { what: 'script a frame while scrolling, ms', most: 16 },
      },
    );
  } finally {
    await house.close();
    rmSync(work, { recursive: true, force: true });
  }
}

/** From a click to the first rows, and script a frame while a million rows are scrolled through. */
async function inBrowser(
  url: string,
  say: (line: string) => void,
): Promise<{ firstRowsMilliseconds: number; scriptMillisecondsPerFrame: number }> {
  const browser = await chromium.launch({ executablePath: '/usr/bin/chromium', args: ['--no-sandbox'] });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    page.setDefaultTimeout(60_000);
    await page.goto(`${url}/Search/main/names?to=1`);
    await page.getByRole('heading', { name: 'Names' }).waitFor();
    // Once, so that the code of the view is there; then as somebody goes to it.
    const times: number[] = [];
    for (let round = 0; round < 5; round++) {
      await page.getByRole('link', { name: 'Names' }).click();
      await page.getByRole('heading', { name: 'Names' }).waitFor();
      times.push(
        await page.evaluate(async () => {
          const link = [...document.querySelectorAll('a')].find(
            ({ textContent }) => textContent === 'Library',
          );
          const begin = performance.now();
          link?.click();
          while (!document.querySelector('[role="grid"] [role="gridcell"]'))
            await new Promise((resolve) => requestAnimationFrame(resolve));
          return performance.now() - begin;
        }),
      );
    }
    const firstRowsMilliseconds = times.sort((a, b) => a - b)[2] ?? NaN;
    say(`First rows ${firstRowsMilliseconds.toFixed(0)} ms after a click`);
    await page.goto(`${url}/Search/main/library?to=1&text=size%3A%3E0`);
    await page.locator('[role="grid"] [role="row"] a').first().waitFor();
    const session = await page.context().newCDPSession(page);
    await session.send('Performance.enable');
    const script = async (): Promise<number> =>
      (await session.send('Performance.getMetrics')).metrics.find(({ name }) => name === 'ScriptDuration')
        ?.value ?? 0;
    const before = await script();
    const frames = await page.evaluate(async (wanted) => {
      const scroller = document.querySelector('[role="grid"] > [role="rowgroup"]:last-child');
      if (!scroller) return 0;
      for (let frame = 0; frame < wanted; frame++) {
        scroller.scrollTop = (scroller.scrollHeight * frame) / wanted;
        await new Promise((resolve) => requestAnimationFrame(resolve));
      }
      return wanted;
    }, scrolledFrames);
    const scriptMillisecondsPerFrame = ((await script()) - before) * (1000 / Math.max(1, frames));
    say(`${scriptMillisecondsPerFrame.toFixed(1)} ms of script a frame over ${frames} frames`);
    return { firstRowsMilliseconds, scriptMillisecondsPerFrame };
  } finally {
    await browser.close();
  }
}
