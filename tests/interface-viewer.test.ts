import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { Document, NodeIO } from '@gltf-transform/core';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { boneBlockDocument } from './support/viewed-models.ts';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Looked at';
const models = '/usr/share/assimp/models';

/** Looking at models in the real interface: small canvases, since they are drawn by software. */
describe('The viewer of models', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];

  before(async () => {
    await house.open();
    const build = house.path('1');
    mkdirSync(build);
    const io = new NodeIO();
    writeFileSync(join(build, 'figure.glb'), await io.writeBinary(boneBlockDocument()));
    writeFileSync(join(build, 'card.glb'), await io.writeBinary(await cardDocument()));
    writeFileSync(join(build, 'scales.glb'), await io.writeBinary(scalesDocument()));
    writeFileSync(join(build, 'broken.glb'), Buffer.from('glTF\x02\0\0\0nothing'));
    for (const name of [
      'X/dwarf.x',
      'FBX/spider.fbx',
      'Collada/duck.dae',
      'OBJ/spider.obj',
      'PLY/points.ply',
    ])
      try {
        cpSync(join(models, name), join(build, name.replace(/.*\//, '')));
      } catch {
        // Not all of them ship with every version of the package.
      }
    await house.index(build, title, '1');
    url = await house.serve(house.port);
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
    await page.setViewportSize({ width: 1000, height: 620 });
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string, query = ''): Promise<void> => {
    await page.goto(`${url}/${encodeURIComponent(title)}/main/asset?to=1&path=${path}${query}`);
  };
  const stage = () => page.getByRole('application', { name: /^Model / });
  const tab = (name: string) => page.getByRole('tab', { name, exact: true });
  const line = (name: string | RegExp) => page.getByRole('treeitem', { name });
  const query = (name: string): string | null => new URL(page.url()).searchParams.get(name);
  /** While something moves, the page has little time for what waits for addresses. */
  const until = async (name: string, value: string): Promise<void> => {
    for (let round = 0; round < 100 && query(name) !== value; round++) await page.waitForTimeout(100);
    expect(query(name)).to.equal(value);
  };
  const see = async (way: string): Promise<void> => {
    await page.getByRole('combobox', { name: 'Way of seeing' }).click();
    await page.getByRole('option', { name: way, exact: true }).click();
  };
  /** Colour at a place of the canvas, from 0 to 1 across and down. */
  const colourAt = async (x: number, y: number): Promise<number[]> => {
    await page.waitForTimeout(400);
    const box = await page.locator('canvas').first().boundingBox();
    if (!box) throw new Error('no canvas');
    const shot = await page.screenshot({ clip: box });
    const { data, info } = await sharp(shot).removeAlpha().raw().toBuffer({ resolveWithObject: true });
    const at = (Math.floor(y * info.height) * info.width + Math.floor(x * info.width)) * 3;
    return [...data.subarray(at, at + 3)];
  };
  /** The model is drawn when the machine has time for it. */
  const expectColour = async (x: number, y: number, wanted: readonly number[], within = 0): Promise<void> => {
    const isThere = (found: readonly number[]): boolean =>
      found.every((value, channel) => Math.abs(value - (wanted[channel] ?? 0)) <= within);
    let found = await colourAt(x, y);
    for (let round = 0; round < 30 && !isThere(found); round++) found = await colourAt(x, y);
    expect(isThere(found), `${String(found)} instead of ${String(wanted)}`).to.equal(true);
  };

  it('has parts as a tree, with helper shapes hidden and the reason for each', async () => {
    await go('figure.glb');
    await page.getByText('2 of 3 parts, 24 triangles shown').waitFor();
    await page.getByText('1 helper shape hidden: 1 collision.').waitFor();
    await page.getByRole('button', { name: 'Show them' }).click();
    await page.getByText('3 of 3 parts, 36 triangles shown').waitFor();
    expect(query('hide')).to.equal('none');
    await line(/UCX_body/).click();
    await page.getByText('a helper for collision: its name has “ucx”').waitFor();
    expect(query('part')).to.equal('2');
    await page.getByRole('button', { name: 'Only this' }).click();
    await page.getByText('1 of 3 parts, 12 triangles shown').waitFor();
    await page.getByRole('button', { name: 'Show all' }).click();
    await typeInto(page.getByLabel('Search the parts'), 'head');
    await page.getByRole('treeitem').nth(1).waitFor({ state: 'detached' });
    expect(await page.getByRole('treeitem').allInnerTexts()).to.have.length(1);
    await expectAccessible(page, 'parts');
  });

  it('goes through the tree by keys', async () => {
    await go('figure.glb');
    const tree = page.getByRole('tree', { name: 'Parts' });
    await tree.focus();
    await page.keyboard.press('End');
    await page.keyboard.press('Enter');
    await page.getByText('a helper for collision').waitFor();
    await page.keyboard.press('Home');
    await page.keyboard.press('ArrowLeft');
    await page.getByRole('treeitem', { name: 'body' }).waitFor({ state: 'detached' });
    await page.keyboard.press('ArrowRight');
    await line(/^.*body/)
      .first()
      .waitFor();
  });

  it('points out bones that are odd, and shows the weights of one', async () => {
    await go('figure.glb', '&panel=bones');
    const odd = page.getByRole('region', { name: 'Odd bones' });
    await odd.getByText('is a double of “hand”').waitFor();
    await line(/^.*head/).click();
    expect(query('bone')).to.equal('head');
    await page.getByRole('button', { name: 'Weights of this bone' }).click();
    await page.waitForURL(/see=weights/);
    await expectAccessible(page, 'bones');
  });

  it('plays a clip by frames up to its last key, and goes through clips by two keys', async () => {
    await go('figure.glb', '&panel=clips');
    await line(/nod/).click();
    await page.getByRole('button', { name: 'Pause' }).click();
    await page.getByRole('slider', { name: 'Moment' }).focus();
    await page.keyboard.press('End');
    // A clip with keys from frame 0 to frame 91 ends at 91 (common practice, no published source).
    await page.getByText('Frame 91 of 91, 3.03 of 3.03 s, 30 a second').waitFor();
    await page.getByRole('button', { name: '−1 frame' }).click();
    await page.getByText('Frame 90 of 91').waitFor();
    await stage().focus();
    await page.keyboard.press(']');
    await until('clip', 'turn');
    await page.keyboard.press('[');
    await until('clip', 'nod');
    await page.getByRole('button', { name: 'At rest' }).click();
    expect(query('clip')).to.equal(null);
    await expectAccessible(page, 'clips');
  });

  it('shows colours as they are: a grey card and patches of sRGB', async () => {
    await go('card.glb', '&see=base-colour&panel=none');
    await page.getByRole('combobox', { name: 'Side' }).click();
    await page.getByRole('option', { name: 'Front', exact: true }).click();
    // Values of sRGB as the card’s picture has them: black, the grey of 18 % (119; IEC 61966-2-1), and others.
    for (const [at, wanted] of card.entries())
      await expectColour(cardLeft + (at + 0.5) * cardStep, 0.5, wanted, 2);
  });

  it('keeps how it is looked at in the address', async () => {
    await go('figure.glb');
    await see('Plain grey');
    await page.getByRole('button', { name: 'Wireframe' }).click();
    await page.getByRole('button', { name: 'Parallel' }).click();
    await stage().focus();
    for (let turn = 0; turn < 5; turn++) await page.keyboard.press('ArrowRight');
    await page.waitForURL(/eye=/);
    const eye = query('eye');
    expect(eye?.split(',')).to.have.length(7);
    expect([query('see'), query('wires')]).to.deep.equal(['grey', '1']);
    const before = await colourAt(0.5, 0.5);
    await page.reload();
    await line(/body/).first().waitFor();
    await expectColour(0.5, 0.5, before);
    expect(await page.getByRole('button', { name: 'Parallel' }).getAttribute('aria-pressed')).to.equal(
      'true',
    );
  });

  it('measures, cuts and turns the light', async () => {
    await go('figure.glb', '&panel=none');
    await page.getByRole('combobox', { name: 'Side' }).click();
    await page.getByRole('option', { name: 'Front', exact: true }).click();
    await page.getByRole('button', { name: 'Measure' }).click();
    await page.getByText('Point at two places.').waitFor();
    const box = await page.locator('canvas').first().boundingBox();
    if (!box) throw new Error('no canvas');
    for (const y of [0.4, 0.6]) await page.mouse.click(box.x + box.width / 2, box.y + box.height * y);
    await page.getByText(/from one to the other/).waitFor();
    await page.getByRole('button', { name: 'Section …' }).click();
    await page.getByRole('button', { name: 'Across Z' }).click();
    await page.waitForURL(/cut=z0.5/);
    await expectAccessible(page, 'a section');
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Light …' }).click();
    await page.getByRole('slider', { name: 'Exposure' }).focus();
    await page.keyboard.press('ArrowRight');
    await page.waitForURL(/exposure=0.5/);
    await page.keyboard.press('Escape');
  });

  it('saves stills from one camera, of the size that somebody wants', async () => {
    const still = async (query: string): Promise<Buffer> => {
      await go('figure.glb', query);
      await page.getByRole('combobox', { name: 'Save a picture' }).click();
      const [download] = await Promise.all([
        page.waitForEvent('download'),
        page.getByRole('option', { name: 'Still, 1024 × 1024' }).click(),
      ]);
      expect(download.suggestedFilename()).to.equal('figure.glb.png');
      return readFileSync(await download.path());
    };
    // Under load the first one may be taken while the light is still being made.
    await still('&see=grey&panel=none');
    const first = await still('&see=grey&panel=none');
    const { width, height, channels } = await sharp(first).metadata();
    expect([width, height, channels]).to.deep.equal([1024, 1024, 4]);
    const { data } = await sharp(first).extractChannel(3).raw().toBuffer({ resolveWithObject: true });
    const covered = data.filter((alpha) => alpha > 0).length / data.length;
    expect(covered).to.be.within(0.03, 0.6);
    // However it is looked at besides.
    const second = await still('&see=grey&panel=none&eye=3,0,0,0,0.5,0,2');
    expect(
      Buffer.compare(await sharp(first).raw().toBuffer(), await sharp(second).raw().toBuffer()),
    ).to.equal(0);
    expect(query('eye')).to.equal('3,0,0,0,0.5,0,2');
  });

  it('has things of a millimetre and of ten kilometres there at once', async () => {
    // Close to the small one, with the large one behind it: each hides what lies behind it.
    await go('scales.glb', '&panel=none&see=base-colour&eye=0,0,0.01,0,0,0');
    await expectColour(0.5, 0.5, [255, 0, 0]);
    await expectColour(0.03, 0.5, [0, 0, 255]);
  });

  it('shows a cloud of points, which has no parts', async () => {
    await go('points.ply');
    await page
      .getByText(/ units?$/)
      .first()
      .waitFor();
    const drawn = async (): Promise<number> => {
      const box = await page.locator('canvas').first().boundingBox();
      if (!box) throw new Error('no canvas');
      const shot = await page.screenshot({ clip: { ...box, height: box.height - 60 } });
      const { data } = await sharp(shot).removeAlpha().raw().toBuffer({ resolveWithObject: true });
      const [red, green, blue] = data;
      let points = 0;
      for (let at = 0; at < data.length; at += 3)
        if (data[at] !== red || data[at + 1] !== green || data[at + 2] !== blue) points++;
      return points;
    };
    // They are drawn by and by on a slow machine.
    let points = await drawn();
    for (let round = 0; points < 4 && round < 30; round++) {
      await page.waitForTimeout(300);
      points = await drawn();
    }
    expect(points).to.be.within(4, 4000);
  });

  it('comes back by itself when the graphics context is lost', async () => {
    await go('figure.glb', '&see=grey&panel=none');
    // As it is drawn in the end: what is seen at first on a slow machine is not that yet.
    const grey = [166, 165, 156];
    await expectColour(0.5, 0.5, grey, 3);
    await page.evaluate(() => {
      const canvas = document.querySelector('canvas');
      const lose = canvas?.getContext('webgl2')?.getExtension('WEBGL_lose_context');
      lose?.loseContext();
      setTimeout(() => lose?.restoreContext(), 300);
    });
    await page.waitForFunction(
      () => document.querySelector('canvas')?.getContext('webgl2')?.isContextLost() === false,
    );
    await expectColour(0.5, 0.5, grey, 3);
    // The library says that it was lost.
    errors.splice(0);
  });

  it('goes from one model to the next on the graphics that are there', async () => {
    await go('card.glb');
    await tab('Parts').waitFor();
    await page.evaluate(() => {
      const made = HTMLCanvasElement.prototype as unknown as { getContext: (...given: unknown[]) => unknown };
      const before = made.getContext;
      (window as unknown as { contexts: number }).contexts = 0;
      made.getContext = function (...given) {
        if (String(given[0]).startsWith('webgl')) (window as unknown as { contexts: number }).contexts++;
        return before.apply(this, given);
      };
    });
    const shown = async (name: string): Promise<Buffer> => {
      await page.getByRole('heading', { name, level: 1 }).waitFor();
      await tab('Parts').waitFor();
      let before = await stage().screenshot();
      for (let round = 0; round < 20; round++) {
        await page.waitForTimeout(600);
        const now = await stage().screenshot();
        if (now.equals(before)) break;
        before = now;
      }
      return before;
    };
    const card = await shown('card.glb');
    // Two at once: whoever is quicker than a model goes on.
    await page.keyboard.press('PageDown');
    await page.keyboard.press('PageDown');
    const names = readdirSync(house.path('1')).sort();
    const next = await shown(names[names.indexOf('card.glb') + 2] ?? '');
    expect(next.equals(card)).to.equal(false);
    await page.keyboard.press('PageUp');
    await page.keyboard.press('PageUp');
    const again = await shown('card.glb');
    // The same picture as before, and nothing left of what stood there meanwhile.
    const [first, second] = await Promise.all(
      [card, again].map((picture) => sharp(picture).removeAlpha().raw().toBuffer()),
    );
    expect(first?.equals(second ?? Buffer.alloc(0))).to.equal(true);
    expect(await page.evaluate(() => (window as unknown as { contexts: number }).contexts)).to.equal(0);
  });

  it('says why a model cannot be shown, and leaves the rest', async () => {
    await go('broken.glb');
    await page.getByRole('alert').first().waitFor();
    expect(await page.getByRole('main').innerText()).to.match(/cannot|cut short|damaged|bytes/);
    await page.getByText('BLAKE3').waitFor();
    errors.splice(0);
  });

  it('shows models that nobody here made', async () => {
    for (const name of ['spider.obj', 'duck.dae', 'spider.fbx', 'dwarf.x']) {
      const asset = await fetch(`${url}/api/asset?channel=1&build=1&path=${name}`);
      if (!asset.ok) continue;
      const { facts } = (await asset.json()) as { facts: { triangles?: number; bones?: number } | null };
      await go(name, '&hide=none');
      const shown = facts?.triangles ?? 0;
      await page
        .getByRole('tab', { name: 'Parts' })
        .or(page.getByRole('button', { name: 'Parts' }))
        .first()
        .waitFor();
      if (!(await tab('Parts').isVisible())) await page.getByRole('button', { name: 'Parts' }).click();
      await page.getByText(`${shown.toLocaleString('en')} triangles shown`).waitFor();
      errors.splice(0);
    }
  });
});

const card = [
  [0, 0, 0],
  [119, 119, 119],
  [255, 255, 255],
  [200, 60, 40],
  [40, 150, 80],
  [30, 60, 180],
];
/** Where the patches lie, seen from the front: the card fills nine tenths or so of a wide canvas’ height. */
const cardLeft = 0.35;
const cardStep = 0.3 / card.length;

/** A card of patches in a row. */
async function cardDocument(): Promise<Document> {
  const document = new Document();
  const buffer = document.createBuffer();
  const pixels = Buffer.alloc(card.length * 32 * 32 * 3);
  const width = card.length * 32;
  for (let y = 0; y < 32; y++)
    for (let x = 0; x < width; x++)
      for (const channel of [0, 1, 2]) pixels[(y * width + x) * 3 + channel] = card[x >> 5]?.[channel] ?? 0;
  const png = await sharp(pixels, { raw: { width, height: 32, channels: 3 } })
    .png()
    .toBuffer();
  const texture = document.createTexture('card').setImage(png).setMimeType('image/png');
  const accessor = (type: 'VEC3' | 'VEC2', values: number[]) =>
    document.createAccessor().setType(type).setArray(new Float32Array(values)).setBuffer(buffer);
  const primitive = document
    .createPrimitive()
    .setAttribute('POSITION', accessor('VEC3', [-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]))
    .setAttribute('TEXCOORD_0', accessor('VEC2', [0, 1, 1, 1, 1, 0, 0, 0]))
    .setIndices(
      document
        .createAccessor()
        .setType('SCALAR')
        .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
        .setBuffer(buffer),
    )
    .setMaterial(document.createMaterial('card').setBaseColorTexture(texture).setDoubleSided(true));
  const node = document.createNode('card').setMesh(document.createMesh('card').addPrimitive(primitive));
  document.createScene().addChild(node);
  return document;
}

/** A red square of two millimetres, before a blue one of twenty kilometres that stands ten kilometres away. */
function scalesDocument(): Document {
  const document = new Document();
  const buffer = document.createBuffer();
  const scene = document.createScene();
  for (const [name, half, z, colour] of [
    ['small', 0.001, 0, [255, 0, 0]],
    ['large', 10_000, -10_000, [0, 0, 255]],
  ] as const) {
    const position = document
      .createAccessor()
      .setType('VEC3')
      .setArray(new Float32Array([-half, -half, z, half, -half, z, half, half, z, -half, half, z]))
      .setBuffer(buffer);
    const pixel = document.createTexture(name).setMimeType('image/png').setImage(pixelOf(colour));
    const uv = document
      .createAccessor()
      .setType('VEC2')
      .setArray(new Float32Array(8).fill(0.5))
      .setBuffer(buffer);
    const indices = document
      .createAccessor()
      .setType('SCALAR')
      .setArray(new Uint16Array([0, 1, 2, 0, 2, 3]))
      .setBuffer(buffer);
    const primitive = document
      .createPrimitive()
      .setAttribute('POSITION', position)
      .setAttribute('TEXCOORD_0', uv)
      .setIndices(indices)
      .setMaterial(document.createMaterial(name).setBaseColorTexture(pixel));
    scene.addChild(document.createNode(name).setMesh(document.createMesh(name).addPrimitive(primitive)));
  }
  return document;
}

/** A PNG of one pixel, by ImageMagick. */
function pixelOf(colour: readonly number[]): Uint8Array {
  return execFileSync('convert', ['-size', '1x1', `xc:rgb(${colour.join()})`, 'PNG24:-']);
}
