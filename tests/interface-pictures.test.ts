import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Pictures';

/** Looking at pictures in the real interface: what is shown is what their files have, number by number. */
describe('The viewer of pictures', () => {
  const shown = showTree(title, async (build) => {
    const raw = (data: Uint8Array, width: number, height: number) =>
      sharp(data, { raw: { width, height, channels: 4 } });
    // A mark of four colours, one of them under clear alpha.
    const mark = Uint8Array.of(200, 10, 20, 255, 30, 180, 40, 128, 50, 60, 220, 0, 119, 119, 119, 255);
    writeFileSync(join(build, 'mark.png'), await raw(mark, 2, 2).png().toBuffer());
    const frames = await Promise.all(
      [255, 120, 30].map((red) =>
        sharp({ create: { width: 8, height: 8, channels: 3, background: { r: red, g: 0, b: 0 } } })
          .png()
          .toBuffer(),
      ),
    );
    writeFileSync(
      join(build, 'moves.gif'),
      await sharp(frames, { join: { animated: true } })
        .gif({ delay: [50, 50, 50] })
        .toBuffer(),
    );
    writeFileSync(join(build, 'sky.dds'), cubeOfColours());
    writeFileSync(join(build, 'cut.png'), (await raw(mark, 2, 2).png().toBuffer()).subarray(0, 60));
    // Light of 4.0, 0.5 and 0.25: values that no picture of 8 bits has. And one 16,384 pixels wide, with a red corner.
    execFileSync('oiiotool', [
      '--create',
      '4x4',
      '3',
      '--fill:color=4,0.5,0.25',
      '4x4',
      '-d',
      'float',
      '-o',
      join(build, 'light.exr'),
    ]);
    execFileSync('oiiotool', [
      ...['--create', '16384x2048', '3', '--fill:color=0.2,0.4,0.2', '16384x2048'],
      ...['--fill:color=1,0,0', '64x64+16320+1984', '-d', 'uint8', '-o', join(build, 'huge.png')],
    ]);
  });

  const go = async (path: string, query = ''): Promise<void> => {
    await shown.go(path, query);
    await shown.page.getByText(/^Loading .* …$/).waitFor({ state: 'detached' });
    await shown.page.getByText('Under the pointer').waitFor();
  };
  const stage = () => shown.page.getByRole('application');
  /** Colour at a place of the canvas, from 0 to 1 across and down. */
  const colourAt = async (x: number, y: number): Promise<number[]> => {
    const box = await stage().boundingBox();
    if (!box) throw new Error('no canvas');
    const clip = { x: box.x + x * box.width, y: box.y + y * box.height, width: 1, height: 1 };
    return [
      ...(await sharp(await shown.page.screenshot({ clip }))
        .removeAlpha()
        .raw()
        .toBuffer()),
    ];
  };
  const isNear = (found: readonly number[], wanted: readonly number[]): boolean =>
    wanted.every((value, channel) => Math.abs(value - (found[channel] ?? 0)) <= 2);
  const shows = (x: number, y: number, wanted: readonly number[]): Promise<void> =>
    shown.until(async () => isNear(await colourAt(x, y), wanted), `${wanted.join()} at ${x}, ${y}`);
  const choose = async (label: string, option: string): Promise<void> => {
    await shown.page.getByRole('combobox', { name: label }).click();
    await shown.page.getByRole('option', { name: option, exact: true }).click();
  };

  it('shows channels alone and together, over paper, light and dark, and what lies under clear alpha', async () => {
    await go('mark.png');
    // Two by two, eight times as large, in the middle.
    const [left, right] = [0.495, 0.505];
    const [top, bottom] = [0.49, 0.51];
    await shows(left, top, [200, 10, 20]);
    await choose('Ground', 'On dark');
    await shows(left, bottom, [16, 16, 16]);
    await choose('Ground', 'On light');
    // Half of (30, 180, 40), half of white.
    await shows(right, top, [142, 217, 147]);
    await choose('Channels', 'Without alpha');
    await shows(left, bottom, [50, 60, 220]);
    await choose('Channels', 'Green');
    await shows(right, top, [180, 180, 180]);
    await choose('Channels', 'Alpha');
    await shows(right, top, [128, 128, 128]);
    expect([shown.query('channels'), shown.query('ground')]).to.deep.equal(['alpha', 'light']);
    await expectAccessible(shown.page, 'a picture');
  });

  it('tells the values under the pointer, and what cropping would leave', async () => {
    await go('mark.png');
    const box = await stage().boundingBox();
    if (!box) throw new Error('no canvas');
    await shown.page.mouse.move(box.x + box.width * 0.505, box.y + box.height * 0.49);
    const figures = shown.page.getByRole('region', { name: 'Figures of the picture' });
    await figures.getByText('at 1, 0').waitFor();
    expect(await figures.innerText())
      .to.include('180 (0.706)')
      .and.to.include('128 (0.502)');
    await figures.getByText('Cropping would leave all of it.').waitFor();
    await figures.getByText('Red: 30 to 200').waitFor();
  });

  it('goes near, far and aside by keys, and the address keeps where', async () => {
    await go('mark.png');
    await stage().focus();
    for (const key of ['+', '+', 'ArrowRight', '-']) await shown.page.keyboard.press(key);
    await shown.page.waitForURL(/at=/);
    expect(shown.query('at')?.split(',')[0]).to.equal('16');
    await shown.page.keyboard.press('1');
    await shown.until(
      () => Promise.resolve(shown.query('at')?.startsWith('1,') === true),
      'its pixels as they are',
    );
    await shown.page.keyboard.press('0');
    await shown.until(() => Promise.resolve(shown.query('at') === null), 'all of it');
    await shown.page.getByRole('button', { name: 'Tiled' }).click();
    // All of the plate is covered by it.
    await choose('Channels', 'Without alpha');
    await shown.until(async () => tiles.has((await colourAt(0.02, 0.02)).join()), 'tiles');
    expect(shown.query('tiled')).to.equal('1');
  });

  it('has light that is brighter than white, and exposure that brings it into view', async () => {
    await go('light.exr');
    await shown.page.getByText('Red: 4 everywhere').waitFor();
    // Half of white is 188 in sRGB, a quarter 137 (IEC 61966-2-1).
    await shows(0.5, 0.5, [255, 188, 137]);
    await shown.page.getByRole('slider', { name: 'Exposure' }).focus();
    for (let step = 0; step < 6; step++) await shown.page.keyboard.press('ArrowLeft');
    // Three steps less: 0.5, 0.0625 and 0.03125.
    await shows(0.5, 0.5, [188, 71, 49]);
    expect(shown.query('exposure')).to.equal('-3');
  });

  it('plays frames one after the other, and has them as a strip', async () => {
    await go('moves.gif', '&strip=1');
    const strip = shown.page.getByRole('group', { name: 'Frames' });
    expect(await strip.getByRole('button').count()).to.equal(3);
    await strip.getByRole('button', { name: 'Frame 2' }).click();
    await shows(0.5, 0.5, [30, 0, 0]);
    expect(shown.query('image')).to.equal('0.0.0.0.2');
    await shown.page.getByRole('button', { name: 'Play' }).click();
    await shows(0.5, 0.5, [255, 0, 0]);
    await shows(0.5, 0.5, [120, 0, 0]);
    await shown.page.getByRole('button', { name: 'Pause' }).click();
  });

  it('unfolds the sides of a cube', async () => {
    await go('sky.dds');
    await shown.page.getByRole('button', { name: 'Unfolded' }).click();
    await shown.page.getByText('Red: 0 to 255').waitFor();
    // Four by three: the front (+Z) is the second of the middle row, the one above it +Y, to its right +X.
    await stage().focus();
    for (const [x, y, colour] of [
      [-0.5, 0, sides[4]],
      [0.5, 0, sides[0]],
      [-0.5, -1, sides[2]],
      [1.5, 0, sides[5]],
    ] as const) {
      const box = await stage().boundingBox();
      if (!box) throw new Error('no canvas');
      // Sides of four pixels, eight times as large.
      await shows(0.5 + (x * 32) / box.width, 0.5 + (y * 32) / box.height, colour ?? [0]);
    }
  });

  it('has 16,384 pixels across without a stall: means of all at first, and each pixel where somebody looks closely', async () => {
    await go('huge.png');
    // Whatever takes long takes it elsewhere: the page answers all the while.
    const longest = await shown.page.evaluate(async () => {
      let [most, last] = [0, performance.now()];
      const end = last + 3000;
      while (performance.now() < end) {
        await new Promise((resolve) => setTimeout(resolve, 10));
        most = Math.max(most, performance.now() - last);
        last = performance.now();
      }
      return most;
    });
    expect(longest).to.be.below(1000);
    await shows(0.5, 0.5, [51, 102, 51]);
    await shown.page.getByText('Of the picture made smaller.').waitFor();
    await shown.page.goto(`${shown.page.url()}&at=8,16320,1984`);
    await shows(0.52, 0.52, [255, 0, 0]);
    await shows(0.48, 0.48, [51, 102, 51]);
    await shown.until(async () => {
      const box = await stage().boundingBox();
      if (!box) return false;
      await shown.page.mouse.move(box.x + box.width / 2 - 4, box.y + box.height / 2 - 4);
      return (await shown.page.getByText('at 16,319, 1,983').count()) === 1;
    }, 'the pixel beside the corner');
  });

  it('says in its place why a picture cannot be shown, and leaves the rest', async () => {
    await shown.page.goto(`${shown.url}/${encodeURIComponent(title)}/main/asset?to=1&path=cut.png`);
    await shown.page.getByText('This cannot be shown').waitFor();
    await shown.page
      .getByRole('complementary', { name: 'About this asset' })
      .getByText('picture, png')
      .waitFor();
    const answer = await fetch(`${shown.url}/api/pixels/1/1/cut.png`);
    expect(answer.status).to.equal(400);
    expect(((await answer.json()) as { error: string }).error).to.match(/^cut\.png cannot be shown: /);
    for (const bad of ['left=-1', 'width=99999999', 'frame=-3', 'level=99'])
      expect((await fetch(`${shown.url}/api/pixels/1/1/mark.png?${bad}`)).status, bad).to.equal(400);
    // A part that lies beside the picture is its nearest pixel, and no more.
    const part = await fetch(
      `${shown.url}/api/pixels/1/1/mark.png?left=60000&top=60000&width=4096&height=4096`,
    );
    expect((await part.arrayBuffer()).byteLength).to.equal(10 * 4 + 4);
  });
});

/** The colours of the mark. */
const tiles = new Set(['200,10,20', '30,180,40', '50,60,220', '119,119,119']);

const sides = [
  [255, 0, 0],
  [0, 255, 0],
  [0, 0, 255],
  [255, 255, 0],
  [255, 0, 255],
  [0, 255, 255],
] as const;

/** A cube of four pixels a side in a DDS of plain RGBA: its header as Microsoft’s programming guide for DDS has it. */
function cubeOfColours(): Buffer {
  const size = 4;
  const head = Buffer.alloc(128);
  head.write('DDS ', 0, 'latin1');
  const numbers: [number, number][] = [
    ...([
      [4, 124],
      [8, 0x1 | 0x2 | 0x4 | 0x8 | 0x1000],
      [12, size],
      [16, size],
      [20, size * 4],
    ] as [number, number][]),
    ...([
      [76, 32],
      [80, 0x41],
      [88, 32],
      [92, 0xff],
      [96, 0xff00],
      [100, 0xff0000],
    ] as [number, number][]),
    ...([
      [104, 0xff000000],
      [108, 0x1008],
      [112, 0xfe00],
    ] as [number, number][]),
  ];
  for (const [at, number] of numbers) head.writeUInt32LE(number >>> 0, at);
  const pixels = sides.map((side) =>
    Buffer.from(Array.from({ length: size * size }, () => [...side, 255]).flat()),
  );
  return Buffer.concat([head, ...pixels]);
}
