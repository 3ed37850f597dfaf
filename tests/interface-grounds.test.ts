import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { expectAccessible, typeInto } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const side = 65;
const [lowest, highest] = [-3, 21];
/** The height of a hill, 0 to 1, at a place from corner to corner. */
const hill = (u: number, v: number): number => 0.5 + 0.3 * Math.sin(u * 5) + 0.2 * Math.cos(v * 7 + u);

async function writeTree(folder: string): Promise<void> {
  mkdirSync(join(folder, 'maps/ground'), { recursive: true });
  writeFileSync(join(folder, 'about.txt'), 'Maps and what they stand on.');
  const numbers = new Uint16Array(side * side);
  for (let row = 0; row < side; row++)
    for (let column = 0; column < side; column++)
      numbers[row * side + column] = Math.round(hill(column / (side - 1), row / (side - 1)) * 65_535);
  const heights = await sharp(numbers, { raw: { width: side, height: side, channels: 1 } })
    .toColourspace('grey16')
    .png()
    .toBuffer();
  writeFileSync(join(folder, 'maps/ground/0001.png'), heights);
  // Cut short within its pixels: told by its first bytes, and not to be read.
  writeFileSync(join(folder, 'maps/broken_height.png'), heights.subarray(0, heights.length / 2));
  const red = { create: { width: 8, height: 8, channels: 3 as const, background: '#f00000' } };
  writeFileSync(join(folder, 'maps/hill_overview.png'), await sharp(red).png().toBuffer());
  const posts = Array.from({ length: 120 }, (_, at) => {
    const [x, z] = [((at * 29) % 63) - 31, ((at * 17) % 61) - 30];
    const y = lowest + hill(x / 64 + 0.5, z / 64 + 0.5) * (highest - lowest);
    return { id: `p${at}`, model: '', class: 'post', position: [x, y, z], scale: [0.2, 0.2, 0.2] };
  });
  const map = (more: object) => JSON.stringify({ ...more, placements: posts });
  writeFileSync(join(folder, 'maps/hill.json'), map({ heightmap: 'maps/ground/0001.png' }));
  writeFileSync(join(folder, 'maps/broken.json'), map({}));
  writeFileSync(join(folder, 'maps/plain.json'), map({}));
}

describe('The ground of a map', () => {
  const shown = showTree('Grounds', writeTree);
  const field = (name: string) => shown.page.getByRole('textbox', { name });
  /** Whether most of the middle of the stage is as red as the picture of the ground. */
  const isRed = async (): Promise<boolean> => {
    const stage = await shown.page.getByRole('application', { name: /^Map/ }).boundingBox();
    if (!stage) throw new Error('no stage');
    const clip = {
      ...{ x: stage.x + stage.width / 2 - 20, y: stage.y + stage.height / 2 - 20, width: 40, height: 40 },
    };
    const { channels } = await sharp(await shown.page.screenshot({ clip })).stats();
    const [red, green] = channels.map(({ mean }) => mean);
    return (red ?? 0) > 2.5 * (green ?? 255);
  };

  it('is found by what the map names, lies where things stand on it, and wears its picture', async () => {
    await shown.go('maps/hill.json', '&view=space&panel=ground');
    await shown.page.getByText(/^1[12]\d of 120 things within stand on it: so it was fitted\.$/).waitFor();
    expect(await field('Size of the ground, x').inputValue()).to.equal('64');
    expect(Number(await field('Heights of the ground, lowest').inputValue())).to.be.closeTo(lowest, 0.1);
    expect(Number(await field('Heights of the ground, highest').inputValue())).to.be.closeTo(highest, 0.1);
    expect(await shown.page.getByRole('radio', { name: '0001.png' }).isChecked()).to.equal(true);
    expect(await shown.page.getByRole('radio', { name: 'hill_overview.png' }).isChecked()).to.equal(true);
    await shown.until(isRed, 'the picture of the ground');
    await expectAccessible(shown.page, 'the ground of a map');
  });

  it('goes away and comes back, lies where numbers say, and the address says all of it', async () => {
    const seen = shown.page.getByRole('radiogroup', { name: 'Seen from above' });
    await seen.getByRole('radio', { name: 'None' }).click();
    await shown.until(async () => !(await isRed()), 'the ground without its picture');
    expect(shown.query('cover')).to.equal('none');
    await typeInto(field('Size of the ground, x'), '32');
    await typeInto(field('Heights of the ground, highest'), '9.5');
    await shown.until(() => shown.query('extent') === '0,0,32,64', 'its size in the address');
    await shown.until(() => shown.query('levels')?.endsWith(',9.5') === true, 'its height in the address');
    const address = shown.page.url();
    await shown.page.getByRole('button', { name: 'As it fits' }).click();
    await shown.until(() => shown.query('extent') === null && shown.query('levels') === null, 'as it fits');
    expect(await field('Size of the ground, x').inputValue()).to.equal('64');
    await shown.page.goto(address);
    await field('Size of the ground, x').waitFor();
    expect(await field('Size of the ground, x').inputValue()).to.equal('32');
    await shown.page
      .getByRole('radiogroup', { name: 'Heights' })
      .getByRole('radio', { name: 'None' })
      .click();
    await shown.page.getByText('None. A picture of the build can be chosen above.').waitFor();
  });

  it('is not fetched as long as a map is seen from above', async () => {
    const asked: string[] = [];
    shown.page.on('request', (request) => asked.push(request.url()));
    await shown.go('maps/hill.json');
    await shown.page.getByText('120 of 120 placements').waitFor();
    await shown.page.waitForTimeout(500);
    expect(asked.filter((url) => url.includes('/api/pixels/'))).to.deep.equal([]);
    await shown.page.getByRole('tab', { name: 'Ground' }).click();
    await shown.page.getByText(/things within stand on it/).waitFor();
    expect(asked.filter((url) => url.includes('/api/pixels/'))).to.have.length(1);
  });

  it('that is damaged says why, and the map is there without it', async () => {
    await shown.go('maps/broken.json', '&view=space&panel=ground');
    await shown.page
      .getByRole('alert')
      .filter({ hasText: /^The ground is not shown: .*cannot be decoded/ })
      .waitFor();
    await shown.page.getByText('120 placements of 0 models').waitFor();
    shown.errors.splice(0);
  });

  it('is chosen from all pictures where none is found; addresses that say nonsense say nothing', async () => {
    await shown.go('maps/plain.json', '&view=space&panel=ground&extent=1,2,x&levels=,');
    await shown.page.getByText('None. A picture of the build can be chosen above.').waitFor();
    const choice = shown.page.getByRole('region', { name: 'Heights' }).getByRole('combobox');
    await typeInto(choice, '0001');
    await shown.page.getByRole('option', { name: 'maps/ground/0001.png' }).click();
    await shown.page.getByText(/^1[12]\d of 120 things within stand on it/).waitFor();
    expect(shown.query('ground')).to.equal('maps/ground/0001.png');
  });

  it('has a place on a narrow screen', async () => {
    await shown.page.setViewportSize({ width: 390, height: 800 });
    await shown.go('maps/hill.json', '&view=space&panel=ground');
    await shown.page.getByText(/things within stand on it/).waitFor();
    expect(await shown.page.evaluate(() => document.documentElement.scrollWidth)).to.be.at.most(390);
    await shown.page.setViewportSize({ width: 1280, height: 800 });
  });
});
