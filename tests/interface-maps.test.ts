import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';
import { expectAccessible, typeInto } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';
import { boneBlockDocument } from './support/viewed-models.ts';

const title = 'Maps';
const across = 60;

/** A map of 3,600 figures on a field, with lights that the build lacks, a zone and a locator. */
describe('The viewer of maps', () => {
  const shown = showTree(title, async (build) => {
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
  });

  const go = (query = ''): Promise<void> => shown.go('field.json', query);

  it('says what it costs before anything is loaded, and what this build lacks', async () => {
    const fetched: string[] = [];
    shown.page.on('request', (request) => {
      if (/\/api\/(files|shown)\//.test(request.url())) fetched.push(request.url());
    });
    await go('&view=space&budget=0');
    // 3,600 figures of 36 triangles; their file stands twice.
    await shown.page
      .getByText(
        /^3,603 placements of 2 models: 129,600 triangles, \d materials, 0 textures; [\d.]+ kB to fetch/,
      )
      .waitFor();
    await shown.page.getByText('all as boxes').waitFor();
    await shown.page.getByText('This build lacks 1 model that the map names:').waitFor();
    await shown.page.waitForTimeout(500);
    expect(fetched).to.deep.equal([]);
    await shown.page.getByRole('combobox', { name: 'Drawn as it is' }).click();
    await shown.page.getByRole('option', { name: '300,000 triangles' }).click();
    await shown.page.getByText(/^[1-9][\d,]* as they are, 2 models here$/).waitFor();
    expect(fetched).to.have.length(2);
    // Classes go and come without loading again.
    await shown.page.getByRole('button', { name: /^house / }).click();
    await shown.until(() => shown.query('off') === 'house', 'the class in the address');
    await shown.page.getByRole('button', { name: /^house / }).click();
    await shown.page.getByText(/^[1-9][\d,]* as they are, 2 models here$/).waitFor();
    expect(fetched).to.have.length(2);
    await expectAccessible(shown.page, 'a map in 3D');
  });

  it('chooses in one view what is seen in the other', async () => {
    await go('&view=both');
    await shown.page.getByText(/ as they are, 2 models here$/).waitFor();
    const plan = shown.page.getByRole('application', { name: /^Plan with/ });
    await plan.focus();
    await shown.page.keyboard.press('ArrowRight');
    await shown.until(() => shown.query('placement') === 'p0000', 'the first');
    await shown.page.getByRole('status').getByText('p0000 (house)').waitFor();
    // What is chosen stands in the middle of the other view: a click there finds it.
    await shown.page.waitForTimeout(800);
    const space = await shown.page.getByRole('application', { name: /^Map/ }).boundingBox();
    if (!space) throw new Error('no stage');
    await shown.page.mouse.click(space.x + 5, space.y + 5);
    await shown.until(() => shown.query('placement') === null, 'nothing');
    await shown.page.mouse.click(space.x + space.width / 2, space.y + space.height / 2);
    await shown.until(() => shown.query('placement') === 'p0000', 'it again');
  });

  it('finds what is searched for, says what it is, and leads to its asset', async () => {
    await go();
    await typeInto(shown.page.getByLabel('Search the placements'), 'old lamp');
    await shown.page.getByText('1 of 3,603 placements').waitFor();
    await shown.page.getByRole('treeitem').first().click();
    await shown.page.getByText('This build lacks models/gone_lamp.').waitFor();
    await shown.page.getByLabel('Search the placements').fill('');
    await typeInto(shown.page.getByLabel('Search the placements'), 'start_a');
    await shown.page.getByRole('treeitem', { name: /^start/ }).click();
    await shown.page.getByText('It has no model.').waitFor();
    await shown.page.getByRole('tab', { name: 'Models' }).click();
    await shown.page.getByText('4 models, 2 missing in this build').waitFor();
    await shown.page.getByRole('treeitem', { name: /^hut/ }).click();
    await shown.page.getByRole('link', { name: 'models/hut.glb' }).last().click();
    await shown.page.getByRole('heading', { name: 'hut.glb' }).waitFor();
  });

  it('has a place for all of it on a narrow screen', async () => {
    await shown.page.setViewportSize({ width: 390, height: 800 });
    await go('&view=both');
    await shown.page.getByText(/ as they are, /).waitFor();
    const wide = await shown.page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).to.be.at.most(390);
    await shown.page.setViewportSize({ width: 1280, height: 800 });
  });
});
