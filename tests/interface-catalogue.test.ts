import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import sharp from 'sharp';
import { expectAccessible, openPage, typeInto } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Catalogued marsh';

async function picture(folder: string, name: string, red: number): Promise<void> {
  const create = { width: 48, height: 32, channels: 3 as const, background: { r: red, g: 90, b: 60 } };
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, name), await sharp({ create }).png().toBuffer());
}

/** From what an update brought to an edition: by the inbox, review, preview, publishing and going back. */
describe('The catalogue', () => {
  const shown = showTree(title, async (folder) => {
    await picture(folder, 'heron.png', 200);
    await picture(folder, 'reed.png', 20);
  });
  before(async () => {
    const next = shown.house.path('2');
    await picture(next, 'heron.png', 210);
    await picture(next, 'reed.png', 20);
    await picture(next, 'lantern_old.png', 120);
    await picture(next, 'bell.png', 77);
    await shown.house.index(next, title, '2');
  });
  const catalogue = async (more = ''): Promise<void> => {
    await shown.page.goto(`${shown.url}/${encodeURIComponent(title)}/main/catalogue?from=1&to=2${more}`);
    await shown.page.getByRole('heading', { level: 1, name: 'Catalogue' }).waitFor();
  };
  const open = async (name: string): Promise<void> => {
    await catalogue();
    await shown.page.getByRole('link', { name }).first().click();
    await shown.page.getByRole('heading', { level: 1, name }).waitFor();
  };
  const setState = async (state: string): Promise<void> => {
    await shown.page.getByLabel('State', { exact: true }).click();
    await shown.page.getByRole('option', { name: state, exact: true }).click();
    await shown.page.locator('.MuiMenu-root').waitFor({ state: 'detached' });
    await shown.page.getByRole('button', { name: 'Save the entry' }).click();
  };

  it('has an inbox of what is new, with drafts for all of it at once', async () => {
    const { page } = shown;
    await catalogue('&pane=inbox');
    const fresh = page.getByRole('region', { name: 'New, and without an entry' });
    await fresh.getByText('New, and without an entry: 2').waitFor();
    await expectAccessible(page, 'the inbox');
    await fresh.getByRole('button', { name: 'Start drafts of these 2' }).click();
    await fresh.getByText('New, and without an entry: 0').waitFor();
    await page.getByRole('link', { name: 'lantern old' }).first().waitFor();
    await page.getByRole('button', { name: 'draft 2' }).waitFor();
  });

  it('finds entries by a part of a name', async () => {
    const { page } = shown;
    await catalogue();
    await typeInto(page.getByLabel('A part of a name'), 'lant');
    await page.getByRole('link', { name: 'bell' }).waitFor({ state: 'detached' });
    await page.getByRole('link', { name: 'lantern old' }).waitFor();
    expect(shown.query('text')).to.equal('lant');
    await typeInto(page.getByLabel('A part of a name'), 'nothing');
    await page.getByText('No entry is called “nothing”').waitFor();
  });

  it('keeps what players call a thing, and refuses what it cannot tell apart', async () => {
    const { page } = shown;
    await open('lantern old');
    await typeInto(page.getByLabel('Name that players know'), 'Old lantern');
    await typeInto(page.getByLabel(/^Names in other languages/), 'Alte Laterne');
    await typeInto(page.getByLabel('Tags, with commas'), 'light, pier');
    await typeInto(page.getByLabel('Kind of thing'), 'Lantern');
    await page.getByRole('button', { name: 'Save the entry' }).click();
    await page.getByText('a language is written as de or pt-BR').waitFor();
    await typeInto(page.getByLabel(/^Names in other languages/), 'de: Alte Laterne');
    await page.getByRole('button', { name: 'Save the entry' }).click();
    await page.getByRole('heading', { level: 1, name: 'Old lantern' }).waitFor();
    expect(await page.getByLabel('Tags, with commas').inputValue()).to.equal('light, pier');
    await typeInto(page.getByLabel('What is to be changed'), 'Which pier?');
    await page.getByRole('button', { name: 'Remark it' }).click();
    await page.getByRole('list', { name: 'Remarks' }).getByText('Which pier?').waitFor();
    await page.getByRole('button', { name: 'Settle it' }).click();
    await page.getByRole('button', { name: 'Open it again' }).waitFor();
    await expectAccessible(page, 'an entry with remarks');
  });

  it('asks for two people where the title says so', async () => {
    const { page } = shown;
    await catalogue('&pane=site');
    await typeInto(page.getByLabel('Colour of links on paper: #a83c14'), 'red');
    await page.getByRole('button', { name: 'Save the site’s settings' }).click();
    await page.getByText('a colour is written as #a83c14').waitFor();
    await typeInto(page.getByLabel('Colour of links on paper: #a83c14'), '#2f5f8a');
    await page.getByRole('checkbox', { name: /^Two people/ }).check();
    await page.getByRole('button', { name: 'Save the site’s settings' }).click();
    await page.getByRole('checkbox', { name: /^Two people/, checked: true }).waitFor();
    await open('Old lantern');
    await setState('approved');
    await page.getByText('Whoever wrote an entry last cannot approve it').waitFor();
    expect(shown.errors.splice(0).join()).to.include('409');
    // Somebody else: another browser is another guest.
    const { page: other } = await openPage(shown.browser);
    await other.goto(page.url());
    await other.getByLabel('State', { exact: true }).click();
    await other.getByRole('option', { name: 'approved', exact: true }).click();
    await other.locator('.MuiMenu-root').waitFor({ state: 'detached' });
    await other.getByRole('button', { name: 'Save the entry' }).click();
    await other.getByText(/approved by guest \d+/).waitFor();
    await other.close();
    await page.reload();
    await page.getByText(/approved by guest \d+/).waitFor();
    await setState('published');
    await page.getByText(/approved by guest \d+/).waitFor();
  });

  it('shows the edition before it is published, publishes it, and goes back', async () => {
    const { page } = shown;
    await catalogue();
    await page.getByText('Nothing stands in the way of an edition.').waitFor();
    await page.getByRole('button', { name: 'Make a preview' }).click();
    await page.getByText('A preview with 1 entry is in').waitFor();
    const opened = page.waitForEvent('popup');
    await page.getByRole('link', { name: 'Look at the preview' }).click();
    const site = await opened;
    await site.getByRole('link', { name: /Old lantern/ }).click();
    await site.getByRole('heading', { level: 1, name: 'Old lantern' }).waitFor();
    await site.getByText('Alte Laterne').waitFor();
    expect(
      await site.locator('section img').evaluate((image) => (image as HTMLImageElement).naturalWidth),
    ).to.equal(48);
    await expectAccessible(site, 'the preview');
    await site.close();
    await page.getByRole('button', { name: 'Publish an edition' }).click();
    await page.getByText('Edition 1 with 1 entry is in').waitFor();
    await page.getByRole('button', { name: 'Publish an edition' }).click();
    await page.getByText('Edition 2 with 1 entry is in').waitFor();
    await page.getByRole('button', { name: 'Go back to edition 1' }).click();
    await page
      .getByRole('list', { name: 'Editions' })
      .getByText(/^Edition 3,.*back to edition 1/)
      .waitFor();
    await expectAccessible(page, 'the editions');
  });
});
