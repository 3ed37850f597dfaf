import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { putDemoBuild } from './support/demo-builds.ts';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { select } from '../server/platform/database/rows.ts';
import { untilRead } from './support/known-state.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const asset = (path: string): string =>
  `/Mossline%20Ferry/main/asset?from=0.1&to=0.2&path=${encodeURIComponent(path)}`;
const findings = '/Mossline%20Ferry/main/findings?from=0.1&to=0.2';

/** The real interface, in a real browser, on a real server: a first walk through the job. */
describe('The interface', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];
  before(async () => {
    await house.open();
    for (const label of ['0.1', '0.2'] as const) await putDemoBuild(label, house.path(label));
    url = await house.serve(testPort(5));
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string): Promise<void> => {
    await page.goto(url + path);
    await page.getByRole('main').waitFor();
  };
  const options = () => page.getByRole('listbox', { name: 'Findings' }).getByRole('option');
  const selectedName = async (): Promise<string> =>
    (await page.getByRole('complementary', { name: 'Selected finding' }).locator('h2').textContent()) ?? '';

  it('starts at the form where there is no build yet, and says what is wrong with it', async () => {
    await go('/');
    expect(new URL(page.url()).pathname).to.equal('/new');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByText('a folder or an archive is needed').waitFor();
    await expectAccessible(page, 'the form');
    await typeInto(page.getByLabel('Folder or archive'), '/nowhere/at/all');
    await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Mossline Ferry');
    await typeInto(page.getByLabel('Label of the build'), '0.1');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByRole('alert').getByText('The source /nowhere/at/all does not exist.').waitFor();
    // The browser logs every refused request.
    expect(errors.splice(0).join()).to.include('400');
  });

  it('brings builds in, as they were pasted, with their progress', async () => {
    for (const [label, day, pasted] of [
      ['0.1', '2026-09-04', `"${house.path('0.1')}/"`],
      ['0.2', '2026-10-16', `file://${house.path('0.2')}`],
    ] as const) {
      await go('/new');
      await typeInto(page.getByLabel('Folder or archive'), pasted);
      await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Mossline Ferry');
      await typeInto(page.getByLabel('Label of the build'), label);
      await page.getByLabel('Came out on').fill(day);
      await page.getByRole('button', { name: 'Bring it in' }).click();
      await page.getByRole('heading', { name: `Build ${label} is in` }).waitFor({ timeout: 60_000 });
    }
    await page.getByText('195 files in 4 archives').waitFor();
    await page.getByRole('button', { name: 'See what changed' }).click();
    await options().first().waitFor();
  });

  it('takes letters that are typed into a filter as letters, however slowly they come', async () => {
    await go(findings);
    await options().first().waitFor();
    // What people come for begins high on the page.
    expect((await options().first().boundingBox())?.y).to.be.at.most(170);
    const field = page.getByLabel('Words in the path');
    // `s`, `k` and `d` mark findings where the list has the focus; a pause has the list made anew.
    await typeInto(field, 'gru_', 40);
    await page.waitForTimeout(600);
    await page.keyboard.type('skdds', { delay: 300 });
    await page.waitForTimeout(600);
    expect(await field.inputValue()).to.equal('gru_skdds');
    expect(await field.evaluate((element) => element === element.ownerDocument.activeElement)).to.equal(true);
    expect(await select(house.pool, 'SELECT mark FROM marks')).to.deep.equal([]);
    await go('/Mossline%20Ferry/main/library?to=0.2');
    await page.getByRole('button', { name: 'Form' }).click();
    const search = page.getByLabel(/^Search build/);
    await typeInto(search, 'her', 40);
    await page.waitForTimeout(600);
    await page.keyboard.type('hpon', { delay: 300 });
    expect(await search.inputValue()).to.equal('herhpon');
    expect(await select(house.pool, 'SELECT path_digest FROM haul_items')).to.deep.equal([]);
  });

  it('shows findings as contact sheet and as table, with their counts and evidence', async () => {
    // Counts get better until everything is read and compared.
    await untilRead(house, ['0.1', '0.2']);
    await go(findings);
    await options().first().waitFor();
    const filters = page.getByRole('region', { name: 'Filters' });
    for (const count of ['added 9', 'removed 6', 'changed 31', 'repacked 8', 'moved 16', 'copied 5'])
      await filters.getByRole('button', { name: count }).waitFor({ timeout: 120_000 });
    await filters.getByText('42 shown, 33 folded away, 126 unchanged').waitFor({ timeout: 120_000 });
    await expectAccessible(page, 'the contact sheet');
    await filters.getByRole('button', { name: 'Table' }).click();
    await filters.getByRole('button', { name: 'added 9' }).click();
    await filters.getByText('9 shown').waitFor();
    expect(new URL(page.url()).searchParams.get('status')).to.equal('added');
    expect(await options().count()).to.equal(9);
    await expectAccessible(page, 'the table');
    await page.reload();
    await filters.getByText('9 shown').waitFor();
    await typeInto(page.getByLabel('Words in the path'), 'gru white ini');
    await filters.getByText('1 shown').waitFor();
    expect(await options().first().textContent()).to.include('gru_white.ini');
    await typeInto(page.getByLabel('Words in the path'), 'nothing of the kind');
    await page.getByText('No finding passes these filters').waitFor();
  });

  it('is gone through with keys: next, keep, set aside, open', async () => {
    await go(findings);
    await options().first().waitFor();
    const first = await selectedName();
    await page.keyboard.press('ArrowRight');
    const second = await selectedName();
    expect(second).not.to.equal(first);
    await page.keyboard.press('k');
    await options().nth(1).getByText('kept').waitFor();
    await page.keyboard.press('s');
    await options().nth(2).getByText('set aside').waitFor();
    await page.keyboard.press('Home');
    expect(await selectedName()).to.equal(first);
    await page.keyboard.press('End');
    await page.getByText('42 of 42').waitFor();
    await page.getByLabel('Marks').selectOption({ label: 'kept 1' });
    await page.getByText('1 shown').waitFor();
    expect(await selectedName()).to.equal(second);
    await page.getByRole('listbox', { name: 'Findings' }).focus();
    await page.keyboard.press('Enter');
    await page.getByRole('heading', { level: 1, name: second }).waitFor();
    await page.keyboard.press('g');
    await page.keyboard.press('l');
    await page.getByRole('grid', { name: 'Contents' }).waitFor();
    await page.keyboard.press('?');
    await page.getByRole('heading', { name: 'Keyboard' }).waitFor();
    await expectAccessible(page, 'the page of keys');
  });

  it('makes an entry of an asset, publishes it, and writes the site', async () => {
    await go(asset('data/pictures.zip!/loading/fog.png'));
    await page.getByRole('button', { name: 'Start an entry' }).click();
    await typeInto(page.getByLabel('Name that players know'), 'Fog over the marsh');
    await page.getByLabel('State').click();
    await page.getByRole('option', { name: 'published' }).click();
    await page.getByRole('button', { name: 'Save the entry' }).click();
    await page.getByRole('heading', { level: 1, name: 'Fog over the marsh' }).waitFor();
    await expectAccessible(page, 'an entry');
    await page.getByRole('link', { name: 'All entries' }).click();
    await page.getByText('published, first in 0.1').waitFor();
    await page.getByRole('button', { name: 'Publish an edition' }).click();
    await page.getByText('Edition 1 with 1 entry').waitFor();
    await expectAccessible(page, 'the catalogue');
  });

  it('browses folders and archives, and searches in all of a build', async () => {
    await go('/Mossline%20Ferry/main/library?to=0.2');
    await page.getByRole('link', { name: 'data' }).click();
    await page.getByRole('link', { name: /models\.zip/ }).click();
    await page.getByRole('link', { name: /boats/ }).click();
    await page.getByRole('link', { name: /skins\.zip/ }).click();
    await page.getByText('fry_hull_p05.png').waitFor();
    await typeInto(page.getByLabel(/^Search build/), 'HULL p03');
    await page.getByText('data/models.zip!/boats/skins.zip!/fry_hull_p03.png').waitFor();
    await expectAccessible(page, 'the library');
  });

  it('picks spans on the line of builds', async () => {
    await go(findings);
    await page.getByRole('button', { name: /^Build 0\.2/ }).click();
    await page.getByText('picked alone').waitFor();
    expect(new URL(page.url()).pathname).to.match(/\/library$/);
    await page.getByRole('button', { name: /^Build 0\.2/ }).waitFor();
    await page.getByRole('button', { name: /^Build 0\.2/, pressed: false }).click();
    await page.getByText('0.1 to 0.2').waitFor();
    await options().first().waitFor();
  });

  it('has a dark look that is as readable, and remembers it', async () => {
    const { page: night, errors: nightErrors } = await openPage(browser, { colorScheme: 'dark' });
    for (const [path, what] of [
      [findings, 'findings'],
      [`${findings}&view=table`, 'the table'],
      [asset('data/models.zip!/birds/gru_grey.glb'), 'a model'],
      [asset('maps/isle_first.json'), 'a map'],
      ['/Mossline%20Ferry/main/library?to=0.2', 'the library'],
      ['/Mossline%20Ferry/main/catalogue', 'the catalogue'],
      ['/work', 'work'],
      ['/new', 'the form'],
    ] as const) {
      await night.goto(url + path);
      await night.getByRole('main').waitFor();
      await night.waitForTimeout(500);
      await expectAccessible(night, `${what}, dark`);
    }
    await night.getByRole('button', { name: 'Use the light look' }).click();
    await night.reload();
    await night.getByRole('button', { name: 'Use the dark look' }).waitFor();
    await night.close();
    expect(nightErrors).to.deep.equal([]);
  });

  it('says so where the server does not answer, and goes on when it does again', async () => {
    await go(findings);
    await options().first().waitFor();
    await page.route('**/api/findings*', (route) => route.abort());
    await page.getByLabel('Order').selectOption({ label: 'largest first' });
    await page.getByText('The server does not answer. Is it still running?').waitFor();
    await page.unroute('**/api/findings*');
    await page.getByRole('button', { name: 'Try again' }).click();
    await options().first().waitFor();
    expect(errors.splice(0).join()).to.include('ERR_FAILED');
  });

  it('stops and resumes work', async () => {
    const large = house.path('large');
    mkdirSync(large);
    for (let index = 0; index < 60; index++)
      writeFileSync(`${large}/${index}.bin`, Buffer.alloc(12 * 1024 * 1024, `${index} mossline `));
    await go('/new');
    await typeInto(page.getByLabel('Folder or archive'), large);
    await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Large');
    await typeInto(page.getByLabel('Label of the build'), '1');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByRole('button', { name: 'Stop' }).click();
    await page.getByRole('link', { name: 'All work' }).click();
    const card = page.getByRole('article', { name: 'Indexing: Large, main, build 1' });
    await card.getByText('Indexing: stopped; it goes on where it was').waitFor();
    await expectAccessible(page, 'work');
    await card.getByRole('button', { name: 'Go on' }).click();
    await card.getByText('60 files').waitFor({ timeout: 60_000 });
  });

  it('fits into windows of 1280, 1024 and 390 pixels', async () => {
    const span = 'from=0.1&to=0.2';
    const place = '/Mossline%20Ferry/main';
    const views = [
      ...[
        'findings',
        'news',
        'noise',
        'library',
        'families',
        'names',
        'links',
        'recipes',
        'haul',
        'catalogue',
        'new',
      ].map((view) => `${place}/${view}?${span}`),
      asset('data/models.zip!/birds/gru_white.glb'),
      ...['/work', '/work/ways-in', '/work/keyring', '/work/store', '/work/history', '/keys'],
    ];
    const wide: string[] = [];
    for (const view of views) {
      await go(view);
      for (const width of [1280, 1024, 390]) {
        await page.setViewportSize({ width, height: 800 });
        // What follows the window does so a moment later.
        let needed = Infinity;
        for (let look = 0; look < 20 && needed > width; look++) {
          await page.waitForTimeout(60);
          needed = await page.evaluate<number>('document.documentElement.scrollWidth');
        }
        if (needed > width) wide.push(`${view} at ${width}: ${needed}`);
      }
    }
    expect(wide).to.deep.equal([]);
    await page.setViewportSize({ width: 1280, height: 800 });
  });
});
