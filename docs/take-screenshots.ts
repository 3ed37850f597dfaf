// Takes the pictures in docs/screenshots/ of a running demo: npx tsx docs/take-screenshots.ts [URL] [FOLDER] [NAME …]
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { chromium, type Page } from 'playwright-core';

const [url = 'http://127.0.0.1:4310', folder = 'docs/screenshots', ...wanted] = process.argv.slice(2);
const place = `${url}/Mossline%20Ferry/main`;
const span = 'from=0.1&to=0.2';
const asset = (path: string, builds = span): string =>
  `${place}/asset?${builds}&path=${encodeURIComponent(path)}`;
/** The game has grown by then. */
const grown = 'from=0.6&to=0.7';
const compare = (path: string, way: string): string =>
  `${place}/compare?${span}&path=${encodeURIComponent(path)}&way=${way}`;

interface Shot {
  name: string;
  address: string;
  mode?: 'dark';
  prepare?: (page: Page) => Promise<unknown>;
}

const wait = (page: Page): Promise<void> => page.waitForTimeout(2500);
const shots: Shot[] = [
  { name: 'findings', address: `${place}/findings?${span}`, prepare: wait },
  { name: 'news', address: `${place}/news?${span}`, prepare: wait },
  {
    name: 'noise',
    address: `${place}/noise?${span}`,
    mode: 'dark',
    prepare: (page) => page.getByRole('button', { name: 'New rule' }).click(),
  },
  {
    name: 'compare-model',
    address: compare('data/models.zip!/props/lum/lum_pier_l0.glb', 'distance'),
    prepare: wait,
  },
  {
    name: 'compare-sound',
    address: compare('data/effects.zip!/bells/bell_fog.wav', 'bands'),
    mode: 'dark',
    prepare: wait,
  },
  {
    name: 'asset-model',
    address: `${asset('data/marsh_models.zip!/birds/gru_snow_l0.glb', grown)}&panel=clips`,
    prepare: wait,
  },
  {
    name: 'asset-map',
    address: `${asset('maps/marsh/isle_mill.json', grown)}&view=space&panel=ground`,
    // Models come by and by.
    prepare: (page) => page.waitForTimeout(9000),
  },
  { name: 'asset-graph', address: `${asset('maps/isle_fog.json')}&show=graph`, prepare: wait },
  {
    name: 'library',
    address: `${place}/library?${grown}&path=data/marsh_models.zip!/boats&view=sheet`,
    prepare: wait,
  },
  { name: 'families', address: `${place}/families?${span}`, mode: 'dark', prepare: wait },
  { name: 'names', address: `${place}/names?${span}&section=proposals`, prepare: wait },
  { name: 'recipes', address: `${place}/recipes?${span}`, prepare: wait },
  {
    name: 'formats',
    address: `${place}/formats?from=0.4&to=0.5&sheet=Marsh%20model&pane=result&at=44`,
    prepare: wait,
  },
  { name: 'catalogue', address: `${place}/catalogue?${span}` },
  {
    name: 'entry',
    address: `${place}/catalogue?${span}`,
    async prepare(page) {
      await page.getByRole('link', { name: /White heron/ }).click();
      await page.waitForTimeout(800);
    },
  },
  {
    name: 'new-build',
    address: `${place}/new`,
    async prepare(page) {
      await page.getByRole('button', { name: 'Look into it' }).click();
      await page.getByRole('list', { name: 'Folders and containers' }).waitFor();
      await page.getByRole('checkbox', { name: 'data/effects.zip' }).click();
      await page.waitForTimeout(500);
    },
  },
  {
    name: 'note',
    address: `${place}/note?to=0.2&path=${encodeURIComponent('data/models.zip!/birds/gru_grey.glb')}`,
    prepare: wait,
  },
  // Of the preview, once one was made.
  { name: 'site', address: `${url}/api/titles/1/preview/entries/2-pier-lantern.html`, prepare: wait },
  // Of whatever haul was changed last.
  { name: 'haul', address: `${place}/haul?${grown}`, prepare: wait },
];

mkdirSync(folder, { recursive: true });
const browser = await chromium.launch({
  executablePath: '/usr/bin/chromium',
  args: ['--no-sandbox', '--disable-background-networking', '--enable-unsafe-swiftshader'],
});
for (const { name, address, mode, prepare } of shots) {
  if (wanted.length > 0 && !wanted.some((part) => name === part || `${name}!` === part)) continue;
  const page = await browser.newPage({
    viewport: { width: 1280, height: 800 },
    colorScheme: mode ?? (wanted.includes(`${name}!`) ? 'dark' : 'light'),
  });
  page.on('pageerror', (error) => console.error(`${name}: ${error.message}`));
  page.on('console', (message) => {
    if (message.type() === 'error') console.error(`${name}: ${message.text()}`);
  });
  await page.goto(address);
  await page.getByRole('main').waitFor();
  await page.waitForTimeout(1200);
  await prepare?.(page);
  await page.screenshot({ path: join(folder, `${name}.png`) });
  await page.close();
}
await browser.close();
