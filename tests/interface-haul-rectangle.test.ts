import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import sharp from 'sharp';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

/** What pictures of a haul are cropped to, drawn over one of them. */
describe('The rectangle of a haul', () => {
  const shown = showTree('Reeds', async (folder) => {
    for (const [name, width, height] of [
      ['reeds', 800, 600],
      ['sky', 1024, 768],
    ] as const)
      writeFileSync(
        join(folder, `${name}.webp`),
        await sharp({ create: { width, height, channels: 3, background: '#2a6f5b' } })
          .webp({ lossless: true })
          .toBuffer(),
      );
  });
  const field = () => shown.page.getByLabel('Rectangle of all');

  it('is drawn by pointer, and stands in numbers of the picture’s own pixels', async () => {
    const { page } = shown;
    await shown.go('reeds.webp');
    await page.getByRole('button', { name: 'Add to the haul' }).click();
    await page.getByText('1 asset added to the haul').waitFor();
    await shown.go('sky.webp');
    await page.getByRole('button', { name: 'Add to the haul' }).click();
    await page.goto(`${shown.url}/Reeds/main/haul?to=1`);
    await page.getByRole('tab', { name: 'Rectangle of pictures' }).click();
    await page.getByLabel('Drawn over').click();
    await page.getByRole('option', { name: 'reeds.webp' }).click();
    // Its layer lies over all until it has faded.
    await page.locator('.MuiMenu-root').waitFor({ state: 'detached' });
    await page.getByText('All of 800 × 600 pixels').waitFor();
    const picture = page.getByRole('img', { name: 'reeds.webp' });
    const box = await picture.boundingBox();
    if (!box) throw new Error('the picture is not there');
    const scale = 800 / box.width;
    await page.mouse.move(box.x + 100 / scale, box.y + 50 / scale);
    await page.mouse.down();
    await page.mouse.move(box.x + 300 / scale, box.y + 200 / scale, { steps: 5 });
    await page.mouse.move(box.x + 500 / scale, box.y + 350 / scale, { steps: 5 });
    await page.mouse.up();
    await page.getByText(/^\d+ × \d+ from \d+, \d+, of 800 × 600 pixels$/).waitFor();
    const numbers = (await field().inputValue()).split(',').map(Number);
    // A pixel of the screen is more than one of the picture.
    for (const [at, wanted] of [100, 50, 400, 300].entries())
      expect(numbers[at] ?? NaN).to.be.closeTo(wanted, 2 * scale);
    await expectAccessible(page, 'the rectangle');
  });

  it('is moved by keys, typed, and taken away', async () => {
    const { page } = shown;
    const before = (await field().inputValue()).split(',').map(Number);
    await page.getByRole('group', { name: 'The rectangle: arrow keys move it' }).focus();
    await page.keyboard.press('ArrowRight');
    await page.keyboard.press('ArrowDown');
    await page.waitForFunction(
      (was) => document.querySelector<HTMLInputElement>('input[value*=","]')?.value !== was,
      before.join(','),
    );
    const after = (await field().inputValue()).split(',').map(Number);
    expect(after[0]).to.be.greaterThan(before[0] ?? 0);
    expect(after[1]).to.be.greaterThan(before[1] ?? 0);
    await field().fill('');
    await field().pressSequentially('0,100,800,400');
    await field().press('Enter');
    await page.getByText('800 × 400 from 0, 100, of 800 × 600 pixels').waitFor();
    await page.getByRole('button', { name: 'Whole picture' }).click();
    expect(await field().inputValue()).to.equal('0,0,800,600');
    await page.getByRole('button', { name: 'No rectangle' }).click();
    expect(await field().inputValue()).to.equal('');
  });
});
