import { expect } from 'chai';
import { readdirSync, statSync } from 'node:fs';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { dirname, join } from 'node:path';
import { build } from 'esbuild';
import type { Browser, Page } from 'playwright-core';
import { openBrowser, openPage } from './support/browser.ts';
import { readFile, requestOf } from './support/read.ts';
import type { SilhouettePage } from './support/silhouette-page.ts';

const folder = '/usr/share/assimp/models';
const extensions = /\.(obj|fbx|dae|ply|stl|glb|gltf|3ds|x|ac|ase|b3d|cob|iqm|lwo|md2|off|ms3d|3mf)$/i;
const [fewest, mostBytes, mostOfFolder] = [40, 300_000, 2];
/** Broken on purpose: each reader makes something else of it. */
const broken = /invalid|OutOfRange|wrongTypes|SchemaFailures/;
/** As the server’s pictures are looked at (core/kinds/model/render.ts). */
const [eye, margin] = [[0.62, 0.48, 1] as [number, number, number], 0.06];

declare const window: { silhouettes: SilhouettePage };

/** Open models of Debian’s assimp-testmodels: the viewer and the server draw them from one eye, and cover the same pixels. */
describe('Silhouettes of open models', () => {
  let browser: Browser;
  let page: Page;
  let server: Server;
  let url: string;
  const files = new Map<string, Uint8Array>();
  before(async () => {
    const { outputFiles } = await build({
      ...{ entryPoints: ['tests/support/silhouette-page.ts'], bundle: true, write: false },
      ...{ format: 'esm', platform: 'browser', define: { 'process.env.NODE_ENV': '"production"' } },
    });
    const script = outputFiles[0]?.text ?? '';
    server = createServer((request, response) => {
      const file = files.get(request.url ?? '');
      if (request.url === '/') {
        response.setHeader('content-type', 'text/html');
        response.end('<!doctype html><body style="margin:0"><script type="module" src="/page.js"></script>');
      } else if (request.url === '/page.js') {
        response.setHeader('content-type', 'text/javascript');
        response.end(script);
      } else if (file) response.end(file);
      else response.writeHead(404).end();
    }).listen(0);
    url = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    browser = await openBrowser();
    ({ page } = await openPage(browser, { deviceScaleFactor: 1 }));
    await page.goto(url);
    await page.waitForFunction(() => 'silhouettes' in window);
  });
  after(async () => {
    await browser.close();
    server.close();
  });

  it('are the same in the viewer and in the server’s pictures: intersection over union above 0.98', async () => {
    const { writeShownModel } = await import('../core/kinds/model/write-shown.ts');
    const found: { name: string; share: number }[] = [];
    for (const path of modelsIn(folder)) {
      if (found.length === fewest + 4) break;
      const shownModel = await writeShownModel(requestOf(path)).catch(() => null);
      const reading = shownModel ? await readFile(path).catch(() => null) : null;
      const preview = reading?.preview;
      if (!shownModel || !preview || reading.facts.kind !== 'model') continue;
      const address = `/${found.length}.glb`;
      files.set(address, shownModel);
      const viewed = await page
        .evaluate(([at, from, left]) => window.silhouettes.cover(at, from, left), [
          url + address,
          eye,
          margin,
        ] as const)
        .catch((error: unknown) => String(error));
      files.delete(address);
      let [both, either] = [0, 0];
      for (let at = 0; at < preview.width * preview.height; at++) {
        const alpha = preview.rgba[at * 4 + 3] ?? 0;
        const [here, there] = [viewed[at] === 1, alpha >= 128];
        // Of an edge that is half in a pixel either may be right.
        if (alpha > 0 && alpha < 255) continue;
        if (here && there) both++;
        if (here || there) either++;
      }
      found.push({ name: path.slice(folder.length + 1), share: either === 0 ? 1 : both / either });
    }
    const apart = found.filter(({ share }) => share <= 0.98);
    expect(found.length).to.be.at.least(fewest);
    expect(apart).to.deep.equal([]);
  });
});

function modelsIn(at: string): string[] {
  return readdirSync(at, { withFileTypes: true })
    .sort((a, b) => (a.name < b.name ? -1 : 1))
    .flatMap((entry) => {
      const path = join(at, entry.name);
      if (entry.isDirectory()) return broken.test(entry.name) ? [] : modelsIn(path);
      return extensions.test(entry.name) && statSync(path).size <= mostBytes ? [path] : [];
    })
    .filter(
      (path, place, all) =>
        all.slice(0, place).filter((other) => dirname(other) === dirname(path)).length < mostOfFolder,
    );
}
