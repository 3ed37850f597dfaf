import { expect } from 'chai';
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { NodeIO } from '@gltf-transform/core';
import { KHRMaterialsVariants } from '@gltf-transform/extensions';
import sharp from 'sharp';
import { textureSetsSchema } from '../contract/texture-sets.ts';
import { crateDocument } from './support/crate-document.ts';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Materials';
const crate = 'props/crate.glb';

async function writeTree(folder: string): Promise<void> {
  const colour = async (name: string, background: string): Promise<void> =>
    writeFileSync(
      join(folder, name),
      await sharp({ create: { width: 16, height: 16, channels: 3, background } })
        .png()
        .toBuffer(),
    );
  mkdirSync(join(folder, 'props'), { recursive: true });
  mkdirSync(join(folder, 'other'), { recursive: true });
  const io = new NodeIO().registerExtensions([KHRMaterialsVariants]);
  writeFileSync(join(folder, crate), await io.writeBinary(crateDocument()));
  await colour('props/crate_col.png', '#d02020');
  await colour('props/crate_p01_col.png', '#2030d0');
  await colour('props/crate_orm.png', '#ff8000');
  await colour('props/crate_msk.png', '#ff0000');
  await colour('other/moss.png', '#20c040');
  await colour('other/lost_wood.png', '#20c040');
  writeFileSync(
    join(folder, 'props', 'lost.obj'),
    'mtllib lost.mtl\nv 0 0 0\nv 1 0 0\nv 1 1 0\nvt 0 0\nvt 1 0\nvt 1 1\nusemtl board\nf 1/1 2/2 3/3\n',
  );
  writeFileSync(join(folder, 'props', 'lost.mtl'), 'newmtl board\nmap_Kd ../other/lost_wod.png\n');
}

/** What models wear, in the real interface: pictures by role, palettes, corrections, variants, UVs, turntables. */
describe('Materials of a model', () => {
  const shown = showTree(title, writeTree);
  /** The colour that most of the model has: what stands in the middle of the canvas. */
  const colour = async (): Promise<number[]> => {
    await shown.page.waitForTimeout(400);
    const box = await shown.page.locator('canvas').first().boundingBox();
    if (!box) throw new Error('no canvas');
    const clip = { x: box.x + box.width / 2 - 2, y: box.y + box.height * 0.6, width: 4, height: 4 };
    const { data } = await sharp(await shown.page.screenshot({ clip }))
      .removeAlpha()
      .raw()
      .toBuffer({ resolveWithObject: true });
    return [...data.subarray(0, 3)];
  };
  const isMostly = async (channel: 0 | 1 | 2): Promise<boolean> => {
    const found = await colour();
    const others = found.filter((_, at) => at !== channel);
    return others.every((value) => (found[channel] ?? 0) > value + 40);
  };
  const role = (name: string) => shown.page.getByRole('group', { name, exact: true });
  const choose = async (of: string, option: string | RegExp): Promise<void> => {
    await role(of).getByRole('combobox').click();
    await shown.page.getByRole('option', { name: option }).click();
  };

  it('wear what is named like them by role, and say from where each picture comes', async () => {
    await shown.go(crate, '&panel=materials');
    await role('base colour').getByText('by its name; colour; named as the material').waitFor();
    await role('packed channels')
      .getByText('R occlusion, G roughness, B metalness', { exact: false })
      .waitFor();
    await role('tint mask').getByText('linear data', { exact: false }).waitFor();
    await shown.until(() => isMostly(0), 'the red picture');
    await expectAccessible(shown.page, 'materials');
    await shown.page.getByRole('button', { name: 'Pictures by name, too' }).click();
    await shown.until(async () => !(await isMostly(0)), 'no picture');
    expect(shown.query('sets')).to.equal('file');
  });

  it('change with palettes and with sets of the file, and show a colour that is tried in a tint mask', async () => {
    await shown.go(crate, '&panel=materials&palette=palette%201');
    await shown.until(() => isMostly(2), 'the blue palette');
    await shown.page.getByRole('combobox', { name: 'Palette' }).click();
    await shown.page.getByRole('option', { name: 'The plain one' }).click();
    await shown.until(() => isMostly(0), 'the plain one');
    await shown.page.getByLabel('Colour in the mask').fill('#000000');
    await shown.until(async () => (await colour()).every((value) => value < 90), 'a black tint');
    await shown.page.getByRole('button', { name: 'No colour' }).click();
    await shown.until(() => isMostly(0), 'no tint');
    await shown.page.getByRole('combobox', { name: 'Set of materials in the file' }).click();
    await shown.page.getByRole('option', { name: 'bound in iron' }).click();
    await shown.until(async () => (await colour()).every((value) => value < 90), 'the iron set');
    expect(shown.query('dress')).to.equal('bound in iron');
  });

  it('show one role alone as it is, also of what is worn by name', async () => {
    await shown.go(crate, '&panel=materials&see=tint-mask');
    await shown.until(async () => {
      const [red = 0, green = 0, blue = 0] = await colour();
      return red > 250 && green < 5 && blue < 5;
    }, 'the mask as it is');
    await shown.page.getByRole('combobox', { name: 'Way of seeing' }).click();
    await shown.page.getByRole('option', { name: 'Roughness alone' }).click();
    await shown.until(
      async () => (await colour()).every((value) => Math.abs(value - 128) <= 2),
      'its green channel',
    );
  });

  it('are corrected by trying, and the correction holds for the next build, too', async () => {
    await shown.go(crate, '&panel=materials');
    await choose('base colour', 'Another file …');
    await shown.page
      .getByRole('combobox', { name: 'Words of its path' })
      .pressSequentially('moss', { delay: 20 });
    await shown.page.getByRole('option', { name: 'other/moss.png' }).click();
    await shown.until(() => isMostly(1), 'the moss');
    await shown.page.getByText('1 picture tried').waitFor();
    await shown.page.getByRole('button', { name: 'Keep for all builds' }).click();
    await role('base colour').getByText('said by the team', { exact: false }).waitFor();
    expect(shown.query('wear')).to.equal(null);
    const next = shown.house.path('2');
    mkdirSync(next);
    await writeTree(next);
    await shown.house.index(next, title, '2');
    await shown.page.goto(
      `${shown.url}/${title}/main/asset?to=2&path=${encodeURIComponent(crate)}&panel=materials`,
    );
    await role('base colour').getByText('said by the team', { exact: false }).waitFor();
    await shown.until(() => isMostly(1), 'the moss in the next build');
    await role('base colour').getByRole('button', { name: 'Take back' }).click();
    await shown.until(() => isMostly(0), 'what is named like it');
    // Both stand in the history, and are taken back there.
    await shown.page.goto(`${shown.url}/work/history`);
    await shown.page.getByText('took back what was said of 1 texture of props/crate.glb').waitFor();
    await shown.page.getByText('said which files are 1 texture of props/crate.glb').waitFor();
  });

  it('have missing pictures linked in their place, with what they may be', async () => {
    await shown.go('props/lost.obj', '&panel=materials');
    const missing = shown.page.getByRole('region', { name: 'Missing pictures' });
    await missing.getByText('1 picture that it names is not in this build.').waitFor();
    await missing.getByRole('combobox').click();
    await shown.page.getByRole('option', { name: /lost_wood\.png/ }).click();
    await missing.getByRole('button', { name: 'Link 1 picture' }).click();
    await missing.waitFor({ state: 'detached' });
    await shown.until(() => isMostly(1), 'the linked picture');
  });

  it('have variants of parts, of which one is seen, and more that people make', async () => {
    await shown.go(crate, '&panel=parts');
    const variants = shown.page.getByRole('group', { name: 'var', exact: true });
    await variants.getByRole('button', { name: 'var a (1 part)', pressed: true }).waitFor();
    await shown.page.getByText('2 of 3 parts, 24 triangles shown').waitFor();
    await variants.getByRole('button', { name: 'var b (1 part)' }).click();
    await variants.getByRole('button', { name: 'var b (1 part)', pressed: true }).waitFor();
    await shown.until(() => shown.query('hide') === '1', 'the other one hidden');
    await shown.page.getByRole('button', { name: 'Make a variant of what is shown' }).click();
    await shown.page.getByRole('textbox', { name: 'Name of the variant' }).pressSequentially('high lid');
    await shown.page.getByRole('button', { name: 'Make', exact: true }).click();
    await shown.page.getByRole('button', { name: 'high lid (2 parts)', pressed: true }).waitFor();
    expect(JSON.parse(shown.query('set') ?? '')).to.deep.equal({
      variants: [{ name: 'high lid', parts: ['body', 'lid_var_b'] }],
    });
  });

  it('show how parts lie on their picture, and save the model as it turns', async () => {
    await shown.go(crate, '&panel=materials');
    await shown.page.getByRole('button', { name: 'UV layout of crate' }).click();
    const layout = shown.page.getByRole('region', { name: 'UV layout of crate' });
    await layout
      .getByText('crate: 36 triangles; they cover 1,800 % of the picture, some of it more than once')
      .waitFor();
    await expectAccessible(shown.page, 'a UV layout');
    await shown.page.keyboard.press('Escape');
    await layout.waitFor({ state: 'detached' });
    const saved = shown.page.waitForEvent('download');
    await shown.page.getByRole('combobox', { name: 'Save a picture' }).click();
    await shown.page.getByRole('option', { name: 'Turning, 256 × 256' }).click();
    const file = await (await saved).path();
    // By libwebp, in sharp: a whole turn on a clear ground.
    const read = sharp(readFileSync(file), { animated: true });
    expect(await read.metadata()).to.include({ format: 'webp', pages: 48, pageHeight: 256, loop: 0 });
    const { data } = await read.ensureAlpha().raw().toBuffer({ resolveWithObject: true });
    const pixel = (frame: number, x: number, y: number): number[] => [
      ...data.subarray((frame * 256 * 256 + y * 256 + x) * 4, (frame * 256 * 256 + y * 256 + x) * 4 + 4),
    ];
    expect(pixel(0, 2, 2)[3]).to.equal(0);
    expect(pixel(0, 128, 140)[3]).to.equal(255);
    expect(data.subarray(0, 256 * 256 * 4)).not.to.deep.equal(
      data.subarray(6 * 256 * 256 * 4, 7 * 256 * 256 * 4),
    );
  });

  it('are refused where a request is hostile, and passed over in an address', async () => {
    const ask = async (body: unknown): Promise<number> =>
      (
        await fetch(`${shown.url}/api/texture-sets`, {
          method: 'POST',
          headers: { 'content-type': 'application/json', origin: shown.url },
          body: JSON.stringify(body),
        })
      ).status;
    const plain = { channel: 1, build: '1', path: crate, materials: ['crate'] };
    expect(await ask({ ...plain, materials: Array.from({ length: 2001 }, () => 'a') })).to.equal(400);
    expect(await ask({ ...plain, materials: ['a'.repeat(501)] })).to.equal(400);
    expect(await ask({ ...plain, path: 'nowhere.glb' })).to.equal(404);
    const answer = await fetch(`${shown.url}/api/texture-sets`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', origin: shown.url },
      body: JSON.stringify({ ...plain, materials: ['', '%_.*', '(((', '../../etc'] }),
    });
    expect(textureSetsSchema.parse(await answer.json()).materials).to.have.length(4);
    await shown.go(crate, '&panel=materials&wear=%7B%22textures%22%3A3%7D&dress=nothing&palette=none');
    await shown.until(() => isMostly(0), 'what is named like it');
  });
});
