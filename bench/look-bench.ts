import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { build } from 'esbuild';
import { chromium, type Browser, type CDPSession, type Page } from 'playwright-core';
import { applicationRoot } from '../server/platform/application-root.ts';
import type { LookPage } from './look/page.ts';
import { writeScenes } from './look/made-scenes.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run, waitFor } from './running.ts';

const worvel = join(applicationRoot, 'worvel');
const asked = {
  modelToPlain: {
    what: 'a model of a million triangles to its first picture / plain use of the library',
    most: 1,
  },
  modelMemoryToPlain: { what: 'memory of that page / plain use of the library', most: 1.2 },
  mapFirstPictureSeconds: { what: 'a map of 20,000 placements to its first picture, s', most: 3 },
  mapScriptMs: { what: 'script in a frame while one flies over it, ms', most: 8 },
  passHalfMs: { what: 'the next of 100 models by one key, half within, ms', most: 250 },
  passHeapGrowth: { what: 'heap after 500 changes / after 50', most: 1.2 },
  passGraphicsGrowth: { what: 'objects of the graphics after 500 changes / after 50', most: 1.1 },
  sheetSeconds: { what: 'a contact sheet of 200 small pictures from a warm store, s', most: 1 },
  viewerKilobytes: { what: 'first load of the viewer, kB gzip', most: 300 },
};
const rounds = 3;

declare global {
  interface Window {
    look: LookPage;
    graphicsObjects: number;
  }
}

/** How looking feels: in a browser without a graphics card, beside the plain use of the 3D library in the same run. */
export async function benchLook(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-look-'));
  const port = 14_000 + (process.pid % 20_000);
  const url = `http://127.0.0.1:${port}`;
  const game = join(work, 'game');
  const placements = Math.round(20_000 * share);
  await writeScenes(game, { triangles: 1_000_000 * share, placements, models: 300, passed: 100 });
  const data = join(work, 'data');
  const server = spawn(worvel, ['serve', '--port', String(port), '--data', data], { stdio: 'ignore' });
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--enable-unsafe-swiftshader', '--js-flags=--expose-gc'],
  });
  try {
    await waitFor(`${url}/api/health`);
    await run(worvel, ['index', game, '--title', 'Bench', '--build', '1', '--data', data]);
    const model = await measureModel(browser, url);
    say(`A large model: ours ${model.ours.join(', ')} ms, plain ${model.plain.join(', ')} ms`);
    say(`Memory: ours ${model.oursMegabytes.toFixed(0)} MB, plain ${model.plainMegabytes.toFixed(0)} MB`);
    const map = await measureMap(browser, url);
    say(
      `The map: first picture after ${map.seconds.toFixed(2)} s, ${map.frames} frames, ${map.scriptMs.toFixed(2)} ms of script in each`,
    );
    const pass = await measurePass(browser, url, Math.round(500 * Math.max(share, 0.2)));
    say(
      `From one to the next: half within ${pass.halfMs.toFixed(0)} ms; heap ${pass.early.toFixed(1)} MB, then ${pass.late.toFixed(1)} MB; ${pass.earlyGraphics} objects of the graphics, then ${pass.lateGraphics}`,
    );
    const sheetSeconds = await measureSheet(browser, url);
    say(`A contact sheet of ${sheetThings} small pictures: all there after ${sheetSeconds.toFixed(2)} s`);
    const viewerKilobytes = await viewerSize(browser, url);
    return resultOf(
      'look',
      {
        modelMs: median(model.ours),
        plainMs: median(model.plain),
        mapFirstPictureSeconds: map.seconds,
        mapScriptMs: map.scriptMs,
        passHalfMs: pass.halfMs,
        sheetSeconds,
        viewerKilobytes,
      },
      {
        modelToPlain: median(model.ours) / median(model.plain),
        modelMemoryToPlain: model.oursMegabytes / model.plainMegabytes,
        passHeapGrowth: pass.late / pass.early,
        passGraphicsGrowth: pass.lateGraphics / pass.earlyGraphics,
      },
      asked,
    );
  } finally {
    await browser.close();
    const ended = new Promise((resolve) => server.on('exit', resolve));
    server.kill('SIGINT');
    await ended;
    rmSync(work, { recursive: true, force: true });
  }
}

function median(values: readonly number[]): number {
  return [...values].sort((a, b) => a - b)[Math.floor(values.length / 2)] ?? NaN;
}

/** Each time in a page of its own, in turns. */
async function measureModel(browser: Browser, url: string) {
  const { outputFiles } = await build({
    entryPoints: [join(applicationRoot, 'bench', 'look', 'page.ts')],
    ...{ bundle: true, format: 'esm', write: false, minify: true, logLevel: 'error' },
  });
  const code = outputFiles[0]?.text ?? '';
  const address = `${url}/api/files/1/1/large.glb`;
  const measure = async (way: keyof LookPage) => {
    const page = await browser.newPage();
    await page.route('**/bench-page', (route) =>
      route.fulfill({
        contentType: 'text/html',
        body: `<body><script type="module">${code.replaceAll('</script', '<\\/script')}</script></body>`,
      }),
    );
    await page.goto(`${url}/bench-page`);
    await page.waitForFunction(() => 'look' in window);
    const ms = await page.evaluate(([name, at]) => window.look[name](at), [way, address] as const);
    const megabytes = await heapOf(await page.context().newCDPSession(page));
    await page.close();
    return { ms: Math.round(ms), megabytes };
  };
  const ours: number[] = [];
  const plain: number[] = [];
  let [oursMegabytes, plainMegabytes] = [Infinity, Infinity];
  for (let round = 0; round < rounds; round++) {
    const [mine, theirs] = [await measure('ours'), await measure('plain')];
    ours.push(mine.ms);
    plain.push(theirs.ms);
    oursMegabytes = Math.min(oursMegabytes, mine.megabytes);
    plainMegabytes = Math.min(plainMegabytes, theirs.megabytes);
  }
  return { ours, plain, oursMegabytes, plainMegabytes };
}

/** What a page’s script holds: its objects, and the bytes behind them. */
async function heapOf(session: CDPSession): Promise<number> {
  await session.send('HeapProfiler.collectGarbage');
  const usage = (await session.send('Runtime.getHeapUsage')) as {
    usedSize: number;
    embedderHeapUsedSize?: number;
    backingStorageSize?: number;
  };
  return (usage.usedSize + (usage.embedderHeapUsedSize ?? 0) + (usage.backingStorageSize ?? 0)) / 1e6;
}

async function scriptMs(session: CDPSession): Promise<number> {
  const { metrics } = await session.send('Performance.getMetrics');
  return (metrics.find(({ name }) => name === 'ScriptDuration')?.value ?? 0) * 1000;
}

async function measureMap(browser: Browser, url: string) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  // What the browser keeps of the program is there after a first visit.
  await page.goto(`${url}/Bench/main/asset?to=1&path=props%2Fprop_0.glb`);
  await page.getByRole('application').waitFor();
  const session = await page.context().newCDPSession(page);
  await session.send('Performance.enable');
  const begin = performance.now();
  await page.goto(`${url}/Bench/main/asset?to=1&path=field.json&view=space`);
  await page.getByLabel('What the map costs').waitFor();
  await page.evaluate(
    () => new Promise((resolve) => requestAnimationFrame(() => requestAnimationFrame(resolve))),
  );
  const seconds = (performance.now() - begin) / 1000;
  await page.getByText(/^[1-9][\d,]* as they are, \d+ models here$/).waitFor({ timeout: 120_000 });
  await page.getByRole('application', { name: /^Map/ }).focus();
  const before = await scriptMs(session);
  const counting = page.evaluate(async () => {
    let frames = 0;
    const end = performance.now() + 8000;
    while (performance.now() < end) {
      await new Promise(requestAnimationFrame);
      frames++;
    }
    return frames;
  });
  const end = performance.now() + 7500;
  while (performance.now() < end) await page.keyboard.press('w', { delay: 20 });
  const frames = await counting;
  const spent = (await scriptMs(session)) - before;
  await page.close();
  return { seconds, frames, scriptMs: spent / Math.max(1, frames) };
}

/** Counts what is made with the graphics and not given back: buffers, pictures, programs. */
const countsGraphics = `
  window.graphicsObjects = 0;
  for (const [name, make] of Object.entries(Object.getOwnPropertyDescriptors(WebGL2RenderingContext.prototype))) {
    const by = /^create(Buffer|Texture|Program|Shader|VertexArray|Framebuffer|Renderbuffer)$/.test(name) ? 1
      : /^delete(Buffer|Texture|Program|Shader|VertexArray|Framebuffer|Renderbuffer)$/.test(name) ? -1 : 0;
    if (by !== 0) WebGL2RenderingContext.prototype[name] = function (...given) {
      if (by > 0 || given[0]) window.graphicsObjects += by;
      return make.value.apply(this, given);
    };
  }`;

async function measurePass(browser: Browser, url: string, changes: number) {
  const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
  await page.addInitScript({ content: countsGraphics });
  await page.goto(`${url}/Bench/main/asset?to=1&path=many%2Fthing_000.glb`);
  const session = await page.context().newCDPSession(page);
  await page.getByRole('application').waitFor();
  const times: number[] = [];
  const graphicsNow = () => page.evaluate(() => window.graphicsObjects);
  let [at, step, early, earlyGraphics] = [0, 1, NaN, NaN];
  for (let change = 0; change < changes; change++) {
    if (at + step < 0 || at + step > 99) step = -step;
    at += step;
    const name = `thing_${String(at).padStart(3, '0')}.glb`;
    await page.evaluate(() => (document.activeElement as HTMLElement | null)?.blur());
    const begin = performance.now();
    await page.keyboard.press(step > 0 ? 'PageDown' : 'PageUp');
    await waitUntilShown(page, name);
    times.push(performance.now() - begin);
    if (change === Math.min(49, Math.floor(changes / 4))) {
      early = await heapOf(session);
      earlyGraphics = await graphicsNow();
    }
  }
  const late = await heapOf(session);
  const lateGraphics = await graphicsNow();
  await page.close();
  return { halfMs: median(times.slice(0, 99)), early, late, earlyGraphics, lateGraphics };
}

/** Until a model stands there: its name above it, and its parts beside it. */
async function waitUntilShown(page: Page, name: string): Promise<void> {
  await page.waitForFunction(
    (wanted) =>
      document.querySelector('h1')?.textContent === wanted &&
      document.querySelector('[role=application] canvas') !== null &&
      document.querySelector('section[aria-label="Of the model"]') !== null,
    name,
    { polling: 'raf', timeout: 30_000 },
  );
}

const sheetThings = 200;

/** From the list of a folder to its contact sheet, on a screen that has room for all of it; the store has been read before. */
async function measureSheet(browser: Browser, url: string): Promise<number> {
  const seconds: number[] = [];
  for (let round = 0; round <= rounds; round++) {
    const context = await browser.newContext({ viewport: { width: 1920, height: 4400 } });
    const page = await context.newPage();
    await page.goto(`${url}/Bench/main/library?to=1&path=props`);
    await page
      .getByRole('link', { name: /^prop_0\.glb/ })
      .first()
      .waitFor();
    const begin = performance.now();
    await page.getByRole('button', { name: 'Sheet', exact: true }).click();
    await page.waitForFunction(
      (wanted) =>
        [...document.images].filter(
          ({ complete, naturalWidth, height }) => complete && naturalWidth > 0 && height > 60,
        ).length >= wanted,
      sheetThings,
      { polling: 'raf', timeout: 30_000 },
    );
    // The first round warms the store.
    if (round > 0) seconds.push((performance.now() - begin) / 1000);
    await context.close();
  }
  return median(seconds);
}

/** Script and style that a browser fetches for an asset’s page with a model, packed as they are sent. */
async function viewerSize(browser: Browser, url: string): Promise<number> {
  const page = await browser.newPage();
  const before = new Set<string>();
  const fetched = new Set<string>();
  let isViewer = false;
  page.on('request', (request) => {
    const name = request.url().split('/').pop() ?? '';
    if (/\.(js|css)$/.test(name)) (isViewer ? fetched : before).add(name);
  });
  // What every page loads is asked of elsewhere: what counts here is what the viewer adds.
  await page.goto(`${url}/Bench/main/library?to=1`);
  await page.getByRole('link', { name: 'Families' }).waitFor();
  isViewer = true;
  await page.goto(`${url}/Bench/main/asset?to=1&path=many%2Fthing_000.glb`);
  await page.locator('section[aria-label="Of the model"]').waitFor();
  await page.close();
  const folder = join(applicationRoot, 'dist', 'web', 'assets');
  const known = new Set(readdirSync(folder));
  return [...fetched]
    .filter((name) => !before.has(name) && known.has(name))
    .reduce((sum, name) => sum + gzipSync(readFileSync(join(folder, name))).byteLength / 1000, 0);
}
