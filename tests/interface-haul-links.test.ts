import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';
import sharp from 'sharp';
import { expectAccessible } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

/** What a haul lacks, linked at once from its plan. */
describe('Missing files of a haul', () => {
  const shown = showTree('Reeds', async (folder) => {
    for (const name of ['lamps', 'textures', 'moved']) mkdirSync(join(folder, name));
    const picture = await sharp({
      create: { width: 8, height: 8, channels: 4, background: { r: 90, g: 9, b: 30, alpha: 1 } },
    })
      .png()
      .toBuffer();
    writeFileSync(join(folder, 'moved', 'lantern_glas_col.png'), picture);
    writeFileSync(join(folder, 'moved', 'lantern_fram_col.png'), Buffer.concat([picture, Buffer.from('x')]));
    writeFileSync(
      join(folder, 'lamps', 'lantern.ini'),
      ['glass', 'frame', 'nothing_like_it_anywhere']
        .map((part) => `${part} = textures/lantern_${part}_col.png\n`)
        .join(''),
    );
  });

  it('are shown with what they may be, and by which rule, before anything is linked', async () => {
    const { page } = shown;
    await shown.go('lamps/lantern.ini');
    await page.getByRole('button', { name: 'Add to the haul' }).click();
    await page.getByText('1 asset added to the haul').waitFor();
    await page.goto(`${shown.url}/Reeds/main/haul?to=1`);
    await page.getByText('3 files named and not in the build').click();
    await page.getByText('Nothing in this build is like it.').waitFor();
    const button = page.getByRole('button', { name: /^(Link \d+ things?|Nothing to link)$/ });
    await page.getByRole('checkbox', { name: 'Link textures/lantern_glass_col.png' }).waitFor();
    for (const part of ['glass', 'frame']) {
      const box = page.getByRole('checkbox', { name: `Link textures/lantern_${part}_col.png` });
      if (!(await box.isChecked())) await box.check();
    }
    expect(await button.innerText()).to.equal('Link 2 things');
    await expectAccessible(page, 'missing files');
  });

  it('are linked hundreds at once, and come along from then on', async () => {
    const { page } = shown;
    await page.getByRole('button', { name: 'Link 2 things' }).click();
    await page.getByText('2 links accepted; later builds keep them.').waitFor();
    await page.getByText('1 file named and not in the build').waitFor();
    const table = page.getByRole('table', { name: 'What will come out' });
    await table.getByText('moved/lantern_glas_col.png').waitFor();
    await table.getByText('moved/lantern_fram_col.png').waitFor();
  });
});
