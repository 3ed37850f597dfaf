import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';
import sharp from 'sharp';
import { setUpSchema } from '../contract/arrangements.ts';
import { expectAccessible, openPage, typeInto } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';
import { boneBlockDocument } from './support/viewed-models.ts';
import { waveClipsDocument } from './support/wave-clips.ts';

const title = 'Set up';

/** What is put together of several files, in the real interface: levels, clips, layers, props, arrangements. */
describe('Models with what lies beside them', () => {
  const shown = showTree(title, async (build) => {
    const write = async (name: string, document: ReturnType<typeof boneBlockDocument>): Promise<void> => {
      mkdirSync(join(build, name, '..'), { recursive: true });
      writeFileSync(join(build, name), await new NodeIO().writeBinary(document));
    };
    await write('birds/figure_lod0.glb', boneBlockDocument());
    const coarse = boneBlockDocument();
    // A level that has lost its head, and a bone.
    for (const node of coarse.getRoot().listNodes()) {
      if (node.getName() === 'head_block') node.dispose();
      if (node.getName() === 'hand.001') {
        for (const skin of coarse.getRoot().listSkins()) skin.removeJoint(node);
        node.dispose();
      }
    }
    await write('birds/figure_lod1.glb', coarse);
    await write('birds/figure_wave.glb', waveClipsDocument());
    await write('elsewhere/wave_all.glb', waveClipsDocument());
    await write('props/lamp.glb', boneBlockDocument());
  });

  const line = (name: string | RegExp) => shown.page.getByRole('treeitem', { name });
  /** Share of the canvas that is not its ground, in its upper half and in its lower half. */
  const covered = async (): Promise<number[]> => {
    await shown.page.waitForTimeout(500);
    const box = await shown.page.locator('canvas').first().boundingBox();
    if (!box) throw new Error('no canvas');
    const { data, info } = await sharp(await shown.page.screenshot({ clip: box }))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    const ground = [...data.subarray(0, 3)];
    return [0, 1].map((half) => {
      let count = 0;
      const rows = Math.floor(info.height / 2);
      for (let at = half * rows * info.width; at < (half + 1) * rows * info.width; at++)
        if (ground.some((value, channel) => Math.abs(value - (data[at * 3 + channel] ?? 0)) > 12)) count++;
      return count / (rows * info.width);
    });
  };
  const setUp = () => setUpSchema.parse(JSON.parse(shown.query('set') ?? '{}'));
  const fine = 'birds/figure_lod0.glb';

  it('has levels of detail as a ladder, switched in place, and side by side with what each one lost', async () => {
    await shown.go(fine, '&panel=levels');
    const ladder = shown.page.getByRole('list', { name: 'Levels of detail' });
    await ladder.getByText('Level 0, the finest').waitFor();
    expect(await ladder.getByRole('listitem').count()).to.equal(2);
    await ladder.getByRole('button', { name: /Level 1/ }).click();
    await shown.until(() => shown.query('level') === 'birds/figure_lod1.glb', 'the level in the address');
    await shown.page.getByRole('tab', { name: 'Parts', exact: true }).click();
    // The body and its hidden collision shape.
    await shown.page.getByText('1 of 2 parts, 12 triangles shown').waitFor();
    await shown.page.getByRole('tab', { name: 'Levels', exact: true }).click();
    await shown.page.getByRole('button', { name: 'Side by side' }).click();
    const below = shown.page.getByRole('group', { name: 'Level 1', exact: true });
    await below
      .getByText(
        /12 triangles, 50 % fewer than above; 1 part fewer: head_block; 1 bone fewer: hand\.001; outline \d+\.\d % another one/,
      )
      .waitFor();
    await expectAccessible(shown.page, 'levels of detail');
  });

  it('lists clips of the family and of the whole build by their bones, and says what is lacking', async () => {
    await shown.go(fine, '&panel=clips');
    await shown.page.getByText('Of this file (2)').waitFor();
    await shown.page.getByText('Of its family (').waitFor();
    await shown.page.getByText('Elsewhere in the build (').waitFor();
    // “sway” of the family moves nothing that the figure has, and is none of its clips.
    expect(await line('sway').count()).to.equal(0);
    await line(/^wave/).first().click();
    await shown.page.getByText('Not on this model: rig:tail').waitFor();
    expect(shown.query('clip')).to.equal('birds/figure_wave.glb#wave');
    await shown.page.getByRole('application', { name: /^Model / }).focus();
    await shown.page.keyboard.press('[');
    await shown.until(() => shown.query('clip') === 'props/lamp.glb#turn', 'the clip before');
    await shown.page.keyboard.press(']');
    await shown.until(() => shown.query('clip') === 'birds/figure_wave.glb#wave', 'the clip after');
  });

  it('lays clips over one another under a mask, and keeps the whole as an arrangement with an address', async () => {
    await shown.go(fine, '&panel=setup');
    const over = shown.page.getByRole('combobox', { name: 'Lay a clip over' });
    await over.click();
    await over.pressSequentially('wave', { delay: 20 });
    await shown.page.getByRole('option', { name: /wave/ }).first().click();
    const layer = shown.page.getByRole('group', { name: 'Layer 1, wave' });
    await layer.getByText('Not on this model: rig:tail').waitFor();
    const [lifted = 0] = await covered();
    // The head is no longer among the bones that it may move.
    const mask = layer.getByRole('combobox', { name: 'All bones; or only …' });
    await mask.click();
    await mask.pressSequentially('hand', { delay: 20 });
    await shown.page.getByRole('option', { name: 'hand and below', exact: true }).click();
    await shown.until(
      async () => Math.abs(((await covered())[0] ?? 0) - lifted) > 0.001,
      'the head down again',
    );
    expect(JSON.parse(shown.query('set') ?? '')).to.deep.include({
      layers: [
        {
          ...{ path: 'birds/figure_wave.glb', clip: 'wave', weight: 1 },
          moves: ['position', 'rotation', 'scale'],
          mask: { branches: ['hand'], words: [], bones: [] },
        },
      ],
    });
    await layer.getByRole('slider', { name: /^Weight/ }).focus();
    for (let step = 0; step < 8; step++) await shown.page.keyboard.press('ArrowLeft');
    await layer.getByText('60 %').waitFor();
    await layer.getByRole('button', { name: 'Size' }).click();
    await typeInto(shown.page.getByLabel('Keep this as'), 'Hands only');
    await shown.page.getByRole('button', { name: 'Keep', exact: true }).click();
    await shown.until(() => shown.query('arrangement') === 'Hands only', 'the arrangement in the address');
    expect(shown.query('set')).to.equal(null);
    await expectAccessible(shown.page, 'a set-up');
    await shown.go(fine, '&panel=setup&arrangement=Hands%20only');
    await shown.page.getByRole('group', { name: 'Layer 1, wave' }).getByText('60 %').waitFor();
    // Once it is changed it is no longer what was kept; dropped, it is gone.
    await shown.page.getByRole('button', { name: 'Drop Hands only' }).click();
    await shown.page.getByText('None is kept.').waitFor();
    await shown.go(fine, '&panel=setup&arrangement=Hands%20only');
    await shown.page.getByText('None is kept.').waitFor();
    expect(await shown.page.getByRole('group', { name: /^Layer/ }).count()).to.equal(0);
  });

  it('hangs another model on a bone, at numbers that are typed, and says why one cannot be', async () => {
    await shown.go(fine, '&panel=setup');
    const before = await covered();
    await typeInto(shown.page.getByLabel('Hang a model on it'), 'lamp');
    await shown.page.getByRole('option', { name: 'props/lamp.glb' }).click();
    const prop = shown.page.getByRole('group', { name: 'Prop lamp.glb' });
    const on = prop.getByLabel(/^On/);
    await on.click();
    await on.fill('');
    await on.pressSequentially('head', { delay: 20 });
    await shown.page.getByRole('option', { name: 'head', exact: true }).click();
    await typeInto(prop.getByLabel('Size, times'), '0.5');
    await shown.until(() => setUp().props[0]?.scale === 0.5, 'the size');
    await typeInto(prop.getByLabel('Place, m, y'), '-0.3');
    await shown.until(() => setUp().props[0]?.place[1] === -0.3, 'the place');
    await shown.until(async () => ((await covered())[0] ?? 0) > (before[0] ?? 0) + 0.002, 'the prop in view');
    await on.click();
    await on.fill('no such bone');
    await shown.page.keyboard.press('Enter');
    await prop.getByText('It cannot be hung: the model has nothing that is called no such bone.').waitFor();
  });

  it('moves a part by typed numbers and back, and keeps what is left out', async () => {
    await shown.go('props/lamp.glb', '&hide=none&panel=parts');
    await line(/UCX_body/).click();
    await shown.page.getByRole('button', { name: 'Move by numbers' }).click();
    const before = await covered();
    await typeInto(
      shown.page.getByRole('group', { name: 'Move by numbers' }).getByLabel('Move, m, y'),
      '0.6',
    );
    await shown.until(async () => (await covered())[0] !== before[0], 'the part higher');
    await shown.page.getByRole('button', { name: 'Back', exact: true }).click();
    await shown.until(async () => (await covered())[0] === before[0], 'the part back');
    await line(/head_block/).click();
    await shown.page.getByText('It follows its bones, and cannot be moved by itself.').waitFor();
    await shown.page.getByRole('button', { name: 'Leave out' }).click();
    await shown.page.getByText('head_block (left out)').waitFor();
    expect(JSON.parse(shown.query('set') ?? '')).to.deep.equal({ leftOut: ['figure/head_block'] });
  });

  it('has the server’s picture and the levels where the browser draws nothing in 3D', async () => {
    const { page, errors } = await openPage(shown.browser);
    await page.addInitScript({
      content: `const own = HTMLCanvasElement.prototype.getContext;
        HTMLCanvasElement.prototype.getContext = function (name, ...rest) {
          return name.startsWith('webgl') ? null : own.call(this, name, ...rest);
        };`,
    });
    await page.goto(
      `${shown.url}/${encodeURIComponent(title)}/main/asset?to=1&path=${encodeURIComponent(fine)}`,
    );
    await page.getByText(/^This browser cannot draw in 3D: .* Below is the server’s picture/).waitFor();
    const picture = page.getByRole('img', { name: 'figure_lod0.glb' });
    expect(await picture.evaluate((element) => (element as HTMLImageElement).naturalWidth)).to.equal(320);
    await expectAccessible(page, 'a model without WebGL');
    await page
      .getByRole('list', { name: 'Levels of detail' })
      .getByRole('link', { name: 'figure_lod1.glb' })
      .click();
    await page.getByRole('heading', { name: 'figure_lod1.glb' }).waitFor();
    await page.close();
    // The library says what it could not do.
    expect(errors.filter((error) => !/WebGL/.test(error))).to.deep.equal([]);
  });

  it('refuses hostile arrangements, and shows a model whose address says nothing that can be understood', async () => {
    const answer = await fetch(`${shown.url}/api/arrangements`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json', origin: shown.url },
      body: JSON.stringify({
        ...{ channel: 1, path: fine, name: 'x' },
        setUp: { props: [{ path: 'a', scale: 1e99 }] },
      }),
    });
    expect(answer.status).to.equal(400);
    await shown.go(fine, '&panel=parts&set=%7B%22layers%22%3A9%7D&level=nowhere.glb');
    await shown.page.getByText('2 of 3 parts, 24 triangles shown').waitFor();
  });
});
