import { expect } from 'chai';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { expectAccessible, openPage, typeInto } from './support/browser.ts';
import { made } from './support/made-model.ts';
import { showTree } from './support/shown-tree.ts';

/** Taking out in the browser, clicked and typed as people do. */
describe('The haul in the browser', () => {
  const shown = showTree('Herons', async (folder) => {
    for (const name of ['lamps', 'textures']) mkdirSync(join(folder, name));
    const picture = sharp({
      create: { width: 8, height: 8, channels: 4, background: { r: 90, g: 9, b: 30, alpha: 1 } },
    });
    writeFileSync(
      join(folder, 'textures', 'lamp_col.webp'),
      await picture.webp({ lossless: true }).toBuffer(),
    );
    writeFileSync(join(folder, 'lamps', 'lamp.glb'), await made());
    writeFileSync(join(folder, 'lamps', 'broken.glb'), Buffer.from('glTF\u0002\0\0\0'));
    writeFileSync(join(folder, 'readme.txt'), 'a lamp');
  });
  const address = (view: string, query = ''): string => `${shown.url}/Herons/main/${view}?to=1${query}`;
  const rows = () => shown.page.getByRole('table', { name: 'What will come out' }).getByRole('row');

  it('says how to fill it where there is none', async () => {
    await shown.page.goto(address('haul'));
    await shown.page.getByText('There is no haul yet').waitFor();
    await expectAccessible(shown.page, 'no haul');
  });

  it('is made by name, and filled from the library', async () => {
    const { page } = shown;
    await page.getByRole('button', { name: 'New haul' }).click();
    await page.getByLabel('Name of the new haul').pressSequentially('Old lamps', { delay: 15 });
    await page.keyboard.press('Enter');
    await page.getByText('The haul is empty').waitFor();
    await page.goto(address('library', '&text=lamp'));
    await page.getByRole('button', { name: 'Add all found to the haul' }).click();
    await page.getByText('3 assets added to the haul “Old lamps”, which holds 3.').waitFor();
    await page.goto(address('haul'));
    await page.getByText('3 assets chosen').waitFor();
  });

  it('shows what will come out, and what formats do not hold, as settings change', async () => {
    const { page } = shown;
    await rows().first().waitFor();
    expect(await rows().allInnerTexts()).to.have.length(3);
    expect((await rows().allInnerTexts()).join('\n')).to.contain('textures/lamp_col.png');
    await page.getByLabel('Models as').click();
    await page.getByRole('option', { name: 'STL' }).click();
    await page.getByText(/Not held by the formats: .*UVs/).waitFor();
    await page.getByText('lamps/lamp.stl').waitFor();
    await expectAccessible(page, 'the plan');
    // It stays chosen.
    await page.reload();
    await page.getByText('lamps/lamp.stl').waitFor();
  });

  it('takes lengths that are typed, and says what is wrong with others', async () => {
    const { page } = shown;
    await page.getByRole('combobox', { name: 'Printing' }).click();
    await page.getByRole('option', { name: 'One solid' }).click();
    const bed = page.getByLabel('Bed (mm)');
    await typeInto(bed, '12x');
    await bed.press('Enter');
    await page.getByText('A bed is one length (120) or three (220x220x250).').waitFor();
    await bed.fill('');
    await typeInto(bed, '120');
    await bed.press('Enter');
    await page.getByText('A bed is one length').waitFor({ state: 'detached' });
    await page.reload();
    await shown.until(
      async () => (await page.getByLabel('Bed (mm)').inputValue()) === '120',
      'the bed, kept',
    );
    await expectAccessible(page, 'settings for printing');
    await page.getByRole('combobox', { name: 'Printing' }).click();
    await page.getByRole('option', { name: 'No', exact: true }).click();
    await page.getByLabel('Bed (mm)').waitFor({ state: 'detached' });
  });

  it('keeps settings as a profile by name, and takes those that came with the product', async () => {
    const { page } = shown;
    await page.getByRole('button', { name: 'Keep …' }).click();
    await page.getByLabel('Name of the profile').pressSequentially('For our printer', { delay: 15 });
    await page.getByRole('button', { name: 'Keep', exact: true }).click();
    await page.getByRole('combobox', { name: 'Profile' }).getByText('For our printer').waitFor();
    await page.getByRole('combobox', { name: 'Profile' }).click();
    await page.getByRole('option', { name: 'For an engine, metres, Y up' }).click();
    await page.getByText('lamps/lamp.glb').waitFor();
  });

  it('refuses a folder that is not there to be written to, in its place', async () => {
    const { page } = shown;
    const field = page.getByLabel('Folder on the server');
    await field.pressSequentially('taken out', { delay: 10 });
    await page.getByRole('button', { name: 'Write to the folder' }).click();
    await page.getByText('taken out is no whole path: it must begin with /.').waitFor();
    shown.errors.splice(0);
    await field.fill('');
  });

  it('writes to a folder, and says of each what came of reading it again', async () => {
    const { page } = shown;
    const folder = shown.house.path('taken');
    await page.getByLabel('Folder on the server').pressSequentially(folder, { delay: 2 });
    await page.getByRole('button', { name: 'Write to the folder' }).click();
    await page
      .getByText(`2 assets written to ${folder} and read again: 2 the same, 0 differ, 1 not written.`)
      .waitFor();
    expect(existsSync(join(folder, 'lamps', 'lamp.glb'))).to.equal(true);
    await page.getByRole('button', { name: 'Not written 1' }).click();
    await page.getByText(/This GLB is cut short/).waitFor();
    expect(new URL(page.url()).searchParams.get('verdict')).to.equal('failed');
    await expectAccessible(page, 'what was written');
  });

  it('gives it as a ZIP', async () => {
    const { page } = shown;
    await page.getByRole('button', { name: 'All 3' }).click();
    const [download] = await Promise.all([
      page.waitForEvent('download'),
      page.getByRole('link', { name: 'Fetch as ZIP' }).click(),
    ]);
    expect(download.suggestedFilename()).to.equal('Old lamps.zip');
    const path = shown.house.path('fetched.zip');
    await download.saveAs(path);
    expect(readFileSync(path).subarray(0, 2).toString('latin1')).to.equal('PK');
  });

  it('shows what was chosen, and lets some go', async () => {
    const { page } = shown;
    await page.getByRole('tab', { name: 'What was chosen' }).click();
    await page.getByRole('button', { name: 'Take lamps/broken.glb out' }).click();
    await page.getByText('2 assets chosen').waitFor();
  });

  it('is filled from the page of an asset, and a ZIP that is kept is thrown away', async () => {
    const { page } = shown;
    await shown.go('readme.txt');
    await page.getByRole('button', { name: 'Add to the haul' }).click();
    await page.getByText('1 asset added to the haul “Old lamps”, which holds 3.').waitFor();
    await page.goto(address('haul'));
    await page.getByRole('button', { name: 'Write for a ZIP' }).click();
    await page.getByText('3 assets written and read again: 3 the same, 0 differ.').waitFor();
    const kept = join(shown.house.data, 'hauls', '2');
    expect(existsSync(join(kept, 'readme.txt'))).to.equal(true);
    await page.getByRole('button', { name: 'Throw away' }).click();
    await page.getByText('2 assets written to').waitFor();
    expect(existsSync(kept)).to.equal(false);
  });

  it('fits a phone, and is as readable at night', async () => {
    const { page, errors } = await openPage(shown.browser, {
      viewport: { width: 390, height: 800 },
      colorScheme: 'dark',
    });
    for (const pane of ['plan', 'chosen', 'written']) {
      await page.goto(address('haul', `&pane=${pane}`));
      await page.getByRole('tab', { selected: true }).waitFor();
      await page.waitForTimeout(600);
      const width = await page.evaluate('document.documentElement.scrollWidth');
      expect(width, pane).to.be.at.most(390);
      await expectAccessible(page, `${pane}, dark`);
    }
    await page.close();
    expect(errors).to.deep.equal([]);
  });
});
