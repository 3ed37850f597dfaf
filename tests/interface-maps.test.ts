import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { boneBlockDocument } from './support/viewed-models.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Maps';
const across = 60;

/** A map of 3,600 figures on a field, with lights that the build lacks, a zone and a locator. */
describe('The viewer of maps', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];

  before(async () => {
    await house.open();
    const build = house.path('1');
    mkdirSync(join(build, 'models'), { recursive: true });
    const io = new NodeIO();
    for (const name of ['hut', 'post'])
      writeFileSync(join(build, 'models', `${name}.glb`), await io.writeBinary(boneBlockDocument()));
    const placements = Array.from({ length: across * across }, (_, at) => ({
      id: `p${String(at).padStart(4, '0')}`,
      model: at % 2 === 0 ? 'models/hut' : 'models/post',
      class: at % 2 === 0 ? 'house' : 'fence',
      position: [(at % across) * 4, 0, Math.floor(at / across) * 4],
    }));
    const others = [
      { id: 'lamp', model: 'models/gone_lamp', class: 'light', position: [2, 0, 2], name: 'Old lamp' },
      { id: 'quay', model: '', class: 'zone', position: [40, 0, 40], scale: [30, 5, 30] },
      { id: 'start', model: '', class: 'locator', position: [100, 0, 100], locator: 'start_a' },
    ];
    writeFileSync(join(build, 'field.json'), JSON.stringify({ placements: [...placements, ...others] }));
    await house.index(build, title, '1');
    url = await house.serve(house.port);
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (query = ''): Promise<void> => {
    await page.goto(`${url}/${encodeURIComponent(title)}/main/asset?to=1&path=field.json${query}`);
  };
  const query = (name: string): string | null => new URL(page.url()).searchParams.get(name);
  const until = async (holds: () => boolean | Promise<boolean>, what: string): Promise<void> => {
    for (let round = 0; round < 100; round++) {
      if (await holds()) return;
      await page.waitForTimeout(100);
    }
    throw new Error(`Never: ${what}`);
  };

  it('says what it costs before anything is loaded, and what this build lacks', async () => {
    const fetched: string[] = [];
    page.on('request', (request) => {
      if (/\/api\/(files|shown)\//.test(request.url())) fetched.push(request.url());
    });
    await go('&view=space&budget=0');
    // 3,600 figures of 36 triangles; their file stands twice.
    await page
      .getByText(
        /^3,603 placements of 2 models: 129,600 triangles, \d materials, 0 textures; [\d.]+ kB to fetch/,
      )
      .waitFor();
    await page.getByText('all as boxes').waitFor();
    await page.getByText('This build lacks 2 models that the map names:').waitFor();
    await page.waitForTimeout(500);
    expect(fetched).to.deep.equal([]);
    await page.getByRole('combobox', { name: 'Drawn as it is' }).click();
    await page.getByRole('option', { name: '300,000 triangles' }).click();
    await page.getByText(/^[1-9][\d,]* as they are, 2 models here$/).waitFor();
    expect(fetched).to.have.length(2);
    // Classes go and come without loading again.
    await page.getByRole('button', { name: /^house / }).click();
    await until(() => query('off') === 'house', 'the class in the address');
    await page.getByRole('button', { name: /^house / }).click();
    await page.getByText(/^[1-9][\d,]* as they are, 2 models here$/).waitFor();
    expect(fetched).to.have.length(2);
    await expectAccessible(page, 'a map in 3D');
  });

  it('chooses in one view what is seen in the other', async () => {
    await go('&view=both');
    await page.getByText(/ as they are, 2 models here$/).waitFor();
    const plan = page.getByRole('application', { name: /^Plan with/ });
    await plan.focus();
    await page.keyboard.press('ArrowRight');
    await until(() => query('placement') === 'p0000', 'the first');
    await page.getByRole('status').getByText('p0000 (house)').waitFor();
    // What is chosen stands in the middle of the other view: a click there finds it.
    await page.waitForTimeout(800);
    const space = await page.getByRole('application', { name: /^Map/ }).boundingBox();
    if (!space) throw new Error('no stage');
    await page.mouse.click(space.x + 5, space.y + 5);
    await until(() => query('placement') === null, 'nothing');
    await page.mouse.click(space.x + space.width / 2, space.y + space.height / 2);
    await until(() => query('placement') === 'p0000', 'it again');
  });

  it('finds what is searched for, says what it is, and leads to its asset', async () => {
    await go();
    await typeInto(page.getByLabel('Search the placements'), 'old lamp');
    await page.getByText('1 of 3,603 placements').waitFor();
    await page.getByRole('treeitem').first().click();
    await page.getByText('This build lacks models/gone_lamp.').waitFor();
    await page.getByLabel('Search the placements').fill('');
    await typeInto(page.getByLabel('Search the placements'), 'start_a');
    await page.getByRole('treeitem', { name: /^start/ }).click();
    await page.getByText('It has no model.').waitFor();
    await page.getByRole('tab', { name: 'Models' }).click();
    await page.getByText('4 models, 2 missing in this build').waitFor();
    await page.getByRole('treeitem', { name: /^hut/ }).click();
    await page.getByRole('link', { name: 'models/hut.glb' }).last().click();
    await page.getByRole('heading', { name: 'hut.glb' }).waitFor();
  });

  it('has a place for all of it on a narrow screen', async () => {
    await page.setViewportSize({ width: 390, height: 800 });
    await go('&view=both');
    await page.getByText(/ as they are, /).waitFor();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).to.be.at.most(390);
    await page.setViewportSize({ width: 1280, height: 800 });
  });
});
