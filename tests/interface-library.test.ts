import { expect } from 'chai';
import { writeFileSync } from 'node:fs';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const place = '/Mossline%20Ferry/main';
const span = 'from=0.1&to=0.2';

/** The real interface, in a real browser: everything in a build, by folder, by name, by what belongs together. */
describe('The interface of the library', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];
  before(async () => {
    await house.open();
    url = await house.serve(testPort(7));
    await house.indexDemo();
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser, { permissions: ['clipboard-read', 'clipboard-write'] }));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string): Promise<void> => {
    await page.goto(url + place + path);
    await page.getByRole('main').waitFor();
  };
  const names = async (): Promise<string[]> =>
    page.getByRole('gridcell').locator('a .path bdi').allTextContents();
  const copied = (): Promise<string> => page.evaluate(() => navigator.clipboard.readText());

  it('shows folders with what is in them, and sorts by a column from the largest down', async () => {
    await go(`/library?${span}&path=data`);
    await page.getByText('31 models (3 with a skeleton)').first().waitFor();
    await page.getByText('5 new, 27 changed since the build before').waitFor();
    await page.getByRole('link', { name: 'models.zip' }).click();
    await page.getByRole('link', { name: 'boats' }).click();
    await page.getByRole('columnheader', { name: 'Triangles' }).getByRole('button').click();
    await page
      .getByRole('columnheader', { name: 'Triangles' })
      .and(page.locator('[aria-sort="descending"]'))
      .waitFor();
    expect((await names())[1]).to.match(/_l0\.glb$/);
    expect(new URL(page.url()).searchParams.get('sort')).to.equal('triangles');
    await page.getByRole('button', { name: 'Columns' }).click();
    await page.getByRole('menuitemcheckbox', { name: 'Vertices' }).click();
    await page.keyboard.press('Escape');
    await page.getByRole('columnheader', { name: 'Vertices' }).waitFor();
    await page.reload();
    await page.getByRole('columnheader', { name: 'Vertices' }).waitFor();
    await expectAccessible(page, 'the table');
    await page.getByRole('button', { name: 'Sheet' }).click();
    await page.getByText('116 triangles').first().waitFor();
    await expectAccessible(page, 'the contact sheet');
  });

  it('chooses by keys, copies paths with and without extension, and fills a haul', async () => {
    await go(`/library?${span}&path=data%2Fmodels.zip!%2Fprops%2Flum`);
    await page.getByText('lum_bow_l0.glb').waitFor();
    await page.getByRole('grid', { name: 'Contents' }).focus();
    await page.keyboard.press('ArrowDown');
    await page.keyboard.press('Space');
    await page.keyboard.press('Shift+ArrowDown');
    await page.keyboard.press('Shift+ArrowDown');
    await page.getByText('3 assets chosen').waitFor();
    await expectAccessible(page, 'a selection');
    await page.keyboard.press('Shift+P');
    await page.getByText('Copied 3 paths without extension.').waitFor();
    expect(await copied()).to.equal(
      ['bow_l1', 'bow_l2', 'marsh_l0'].map((name) => `data/models.zip!/props/lum/lum_${name}`).join('\n'),
    );
    await page.keyboard.press('h');
    await page.getByText('3 assets added to the haul “First haul”, which holds 3.').waitFor();
    await typeInto(page.getByLabel(/^Search build/), 'gru kind:model');
    await page.getByRole('button', { name: 'Add all found to the haul' }).click();
    await page.getByText('which holds 6.').waitFor();
    await page.getByRole('link', { name: 'Haul' }).click();
    await page.getByText('6 assets chosen,').waitFor();
    await expectAccessible(page, 'the haul');
    await page.getByRole('tab', { name: 'What was chosen' }).click();
    await page.getByRole('button', { name: 'Take data/models.zip!/birds/gru_grey.glb out' }).click();
    await page.getByText('5 assets chosen,').waitFor();
  });

  it('keeps bookmarks of places', async () => {
    await go(`/library?${span}&path=maps`);
    await page.getByRole('button', { name: 'Bookmarks' }).click();
    await page.getByRole('menuitem', { name: 'Mark this place: maps' }).click();
    await go(`/library?${span}`);
    await page.getByRole('button', { name: 'Bookmarks (1)' }).click();
    await expectAccessible(page, 'the bookmarks');
    await page.getByRole('menuitem', { name: /^maps/ }).click();
    await page.getByRole('link', { name: 'isle_first.json' }).first().waitFor();
  });

  it('proposes what names mean; accepted, the public name finds the files', async () => {
    await go(`/names?${span}&section=proposals`);
    const gru = page.getByRole('region', { name: 'gru', exact: true });
    await gru.getByText('stands in 7 names in 4 folders').waitFor();
    await expectAccessible(page, 'the proposals');
    await typeInto(gru.getByLabel('Meaning of gru'), 'heron');
    await gru.getByRole('button', { name: 'Accept' }).click();
    await gru.waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Lexicon' }).click();
    await page.getByRole('row', { name: /gru heron belongs to/ }).waitFor();
    const file = house.path('names.csv');
    writeFileSync(file, 'part,role,meaning\nlum,code name,lantern\n');
    await page.getByLabel('A lexicon as CSV or JSON').setInputFiles(file);
    await page.getByText('the lexicon has 2 entries').waitFor();
    writeFileSync(file, 'part,role,meaning\nx,odd,y\n');
    await page.getByLabel('A lexicon as CSV or JSON').setInputFiles(file);
    await page.getByText(/line 2: role/).waitFor();
    await expectAccessible(page, 'the lexicon');
    await go(`/library?${span}&text=heron%20kind%3Amodel`);
    await page.getByText('“gru” is heron').first().waitFor();
    await go(`/names?${span}&section=fresh`);
    await page.getByRole('region', { name: 'beacon' }).waitFor();
    await expectAccessible(page, 'the parts that are new');
    await page.getByRole('button', { name: 'Splitting' }).click();
    await page.getByLabel('Digits are parts of their own').check();
    expect(await page.getByLabel('Its parts').textContent()).to.equal('heronwingupperl0');
    await expectAccessible(page, 'the rules');
    expect(errors.splice(0).join()).to.include('400');
  });

  it('shows families with why, and puts one right', async () => {
    await go(`/library?${span}&view=families&text=lum_pier`);
    await page.getByRole('link', { name: 'lum_pier' }).click();
    const about = page.getByRole('complementary', { name: 'About this asset' });
    await about.getByText('level 0, the finest').waitFor();
    await about
      .getByText('it names data/models.zip!/props/lum/lum_pier_l0.glb, and no other thing')
      .waitFor();
    await about.getByRole('button', { name: 'Take lum_pier.ini out of the family' }).click();
    await about.getByText('lum_pier, lantern: 3 files').waitFor();
    await typeInto(about.getByLabel('Path of another member'), 'definitions/lum_pier.ini');
    await about.getByRole('button', { name: 'Join' }).click();
    await about.getByText('a person put it to').waitFor();
    await expectAccessible(page, 'a family');
  });

  it('shows links as lists and as a graph, and links what is missing after a dry run', async () => {
    await go(`/asset?${span}&path=maps%2Fisle_fog.json`);
    const about = page.getByRole('complementary', { name: 'About this asset' });
    await about.getByText('models/stages/stage_sunken').waitFor();
    await about.getByRole('button', { name: 'As a graph' }).click();
    await page
      .getByRole('img', { name: /^What maps\/isle_fog\.json needs/ })
      .locator('canvas')
      .first()
      .waitFor();
    await expectAccessible(page, 'the graph');
    await go(`/links?${span}`);
    const row = page.getByRole('region', { name: 'models/stages/stage_sunken' }).nth(1);
    await page.getByRole('button', { name: 'Nothing to link' }).waitFor();
    await row.getByRole('combobox').click();
    await page.getByRole('option', { name: /stage_small/ }).click();
    await expectAccessible(page, 'the dry run');
    await page.getByRole('button', { name: 'Link 1 thing' }).click();
    await page.getByText('1 missing link').waitFor();
    await page.getByRole('button', { name: 'Named by nothing' }).click();
    await page.getByRole('button', { name: 'model', exact: true }).click();
    await page.getByText('gru_young.glb').waitFor();
    await expectAccessible(page, 'what nothing names');
  });

  it('tries a recipe while it is written, and reads the table by it', async () => {
    await go(`/recipes?${span}`);
    await page.getByText('No recipe yet').waitFor();
    await page.getByRole('button', { name: 'New recipe' }).click();
    const outcome = page.getByRole('region', { name: 'What comes of it' });
    await typeInto(page.getByRole('textbox', { name: 'Files' }), 'buoys.csv');
    await outcome.getByText('0 placements of 34 rows').waitFor();
    await outcome.getByText('row 1: no model at “model”').waitFor();
    await typeInto(page.getByRole('textbox', { name: 'Model' }), 'what');
    await typeInto(page.getByLabel(/^Position/), 'east_cm north_cm height_cm');
    await typeInto(page.getByLabel('Metres per unit'), '0.01');
    await outcome.getByText('34 placements of 34 rows').waitFor();
    await expectAccessible(page, 'a recipe');
    await page.getByRole('button', { name: 'Save for this title' }).click();
    await page.getByText('The recipe is saved.').waitFor();
    await page.waitForTimeout(2500);
    await go(`/asset?${span}&path=maps%2Fharbour%2Fbuoys.csv`);
    await page.getByRole('button', { name: /object 34/ }).waitFor();
    await go(`/asset?${span}&path=maps%2Fharbour%2Fharbour.tmx`);
    await page.getByRole('img', { name: 'harbour.tmx' }).waitFor();
    await page.getByText(/^40 × 26, 1,\d+ set$/).waitFor();
  });

  it('is as readable at night', async () => {
    const { page: night, errors: nightErrors } = await openPage(browser, { colorScheme: 'dark' });
    for (const path of [
      `/library?${span}&view=sheet`,
      `/families?${span}`,
      `/names?${span}`,
      `/names?${span}&section=proposals`,
      `/links?${span}`,
      `/recipes?${span}`,
      `/haul?${span}`,
    ]) {
      await night.goto(url + place + path);
      await night.getByRole('main').waitFor();
      await night.waitForTimeout(700);
      await expectAccessible(night, `${path}, dark`);
    }
    await night.close();
    expect(nightErrors).to.deep.equal([]);
  });
});
