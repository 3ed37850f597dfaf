import { expect } from 'chai';
import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { expectAccessible, typeInto } from './support/browser.ts';
import { made } from './support/made-model.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Noted marsh';

describe('Notes', () => {
  const shown = showTree(title, async (folder) => {
    mkdirSync(join(folder, 'props'));
    writeFileSync(join(folder, 'props', 'lantern.glb'), await made());
    writeFileSync(join(folder, 'reeds.txt'), 'Reeds stand here.\n');
  });
  const note = async (more = ''): Promise<void> => {
    const path = `to=1&path=${encodeURIComponent('props/lantern.glb')}`;
    await shown.page.goto(`${shown.url}/${encodeURIComponent(title)}/main/note?${path}${more}`);
    await shown.page.getByRole('heading', { name: 'Note on lantern.glb' }).waitFor();
  };
  const outcomes = () => shown.page.getByRole('list', { name: 'What came of each step' });

  it('are begun with the steps that are known, put in order, and given words', async () => {
    const { page } = shown;
    await note();
    await page.getByText('None yet').waitFor();
    await page.getByRole('button', { name: 'Add the steps that are known of build 1' }).click();
    await page.getByText('Find props/lantern.glb in build 1.').waitFor();
    await page.getByRole('button', { name: 'Add a step by hand' }).click();
    await typeInto(page.getByLabel('Words of step 4'), 'Turn its **glass** upwards.');
    await page.getByRole('button', { name: 'Move step 4 up' }).click();
    expect(await page.getByLabel('Words of step 3').inputValue()).to.equal('Turn its **glass** upwards.');
    await page.getByRole('button', { name: 'Preview' }).click();
    await page.locator('strong', { hasText: 'glass' }).waitFor();
    await expectAccessible(page, 'a note');
    await page.getByRole('button', { name: 'Save the note' }).click();
    await page.getByRole('tab', { name: 'Check' }).click();
    await page.getByText('Step 4: It has no files with their sums yet: run it once.').waitFor();
  });

  it('are run again, and take over what came of it', async () => {
    const { page } = shown;
    await note();
    await page.getByRole('button', { name: 'Run it again' }).click();
    await outcomes().getByText('It wrote 1 file; the note has no sums of them yet.').waitFor();
    await page.getByRole('button', { name: 'Take over what is proposed' }).click();
    await page.getByText(/^File: /).waitFor();
    await page.getByRole('tab', { name: 'Check' }).click();
    await page.getByText('Nothing that a reader would stumble over was found.').waitFor();
    await page.getByRole('tab', { name: 'Run again' }).click();
    await page.getByRole('button', { name: 'Run it again' }).click();
    await outcomes().getByText('1 file, the same bytes by SHA-256.').waitFor();
    await expectAccessible(page, 'a note that was run');
  });

  it('say on a newer build which step no longer fits, and why', async () => {
    const { page, house } = shown;
    const build = house.path('2');
    mkdirSync(join(build, 'harbour'), { recursive: true });
    writeFileSync(join(build, 'harbour', 'lantern.glb'), await made());
    rmSync(join(build, 'props'), { recursive: true, force: true });
    await house.index(build, title, '2');
    await note();
    await page.getByLabel('On build').click();
    await page.getByRole('option', { name: '2', exact: true }).click();
    await page.getByRole('button', { name: 'Run it again' }).click();
    await outcomes().getByText('It has moved to harbour/lantern.glb.', { exact: true }).waitFor();
    await outcomes().getByText('Proposed: Find harbour/lantern.glb in build 2.').waitFor();
    await page.getByRole('button', { name: 'Take over what is proposed' }).click();
    await page.getByText('Find harbour/lantern.glb in build 2.', { exact: true }).first().waitFor();
    await page.getByRole('tab', { name: 'Revisions' }).click();
    await page
      .getByText(
        'Step 2 was “Find props/lantern.glb in build 1.” and is “Find harbour/lantern.glb in build 2.”',
      )
      .waitFor();
    await expectAccessible(page, 'the revisions of a note');
  });

  it('stand with their asset, step by step', async () => {
    const { page } = shown;
    await shown.go('props/lantern.glb');
    await page.getByText('Take out harbour/lantern.glb of build 2.').waitFor();
    await page.getByRole('link', { name: 'Edit or run the note' }).click();
    await page.getByRole('heading', { name: 'Note on lantern.glb' }).waitFor();
  });
});
