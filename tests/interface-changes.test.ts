import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse } from './support/worvel.ts';

const place = '/Mossline%20Ferry/main';
const span = 'from=0.1&to=0.2';

/** The real interface, in a real browser: what changed, and two people who go through it. */
describe('The interface of what changed', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];
  before(async () => {
    await house.open();
    url = await house.serve(house.port);
    await house.indexDemo();
    const { code, errors: said } = await house.run(
      'diff',
      '--title',
      'Mossline Ferry',
      '--from',
      '0.1',
      '--to',
      '0.2',
      '--evidence',
    );
    expect(code, said).to.equal(0);
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string, on = page): Promise<void> => {
    await on.goto(url + place + path);
    await on.getByRole('main').waitFor();
  };
  const compare = (path: string, more = ''): Promise<void> =>
    go(`/compare?${span}&path=${encodeURIComponent(path)}${more}`);
  const options = (on = page) => on.getByRole('listbox', { name: 'Findings' }).getByRole('option');
  const option = (name: string, on = page) => options(on).filter({ hasText: name });

  it('tells the news of an update, ranked, each with what made it so', async () => {
    await go(`/news?${span}`);
    await page.getByRole('heading', { name: 'What is new in 0.2' }).waitFor();
    const first = page.getByRole('listitem').first();
    expect(await first.textContent()).to.include('isle_white.json');
    expect(await first.textContent()).to.include('a new map (40)');
    await page.getByText('gru_white, 2 files').waitFor();
    await page.getByRole('img', { name: /picture .* now/ }).waitFor();
    await expectAccessible(page, 'the news');
    await page.getByRole('link', { name: 'Go through them' }).click();
    await option('isle_white.json').first().waitFor();
    expect(new URL(page.url()).searchParams.get('sort')).to.equal('news');
  });

  it('folds noise away with its counts, and shows it again', async () => {
    await go(`/findings?${span}&view=table`);
    const filters = page.getByRole('region', { name: 'Filters' });
    await filters.getByText('42 shown, 33 folded away').waitFor();
    const noise = page.getByLabel('Noise');
    const repacked = await noise.locator('option', { hasText: '8: Repacked' }).getAttribute('value');
    await noise.selectOption(repacked);
    await filters.getByText('8 shown').waitFor();
    await page.getByRole('button', { name: 'One folder moved' }).click();
    await page.getByText('ui/icons → interface/signs').waitFor();
    await page.keyboard.press('Escape');
  });

  it('lets a rule be written, tried on the span, kept and switched off', async () => {
    await go(`/noise?${span}`);
    await page.getByRole('button', { name: 'New rule' }).click();
    await typeInto(page.getByLabel('Name', { exact: true }), 'Sounds that changed');
    const form = page.getByRole('form', { name: 'Noise rule' });
    await form.getByText('A rule without a condition').waitFor();
    await form.getByRole('button', { name: 'changed' }).click();
    await form.getByRole('button', { name: 'sound' }).click();
    await form.getByText('It fits 2 findings of this span').waitFor();
    await expectAccessible(page, 'the form of a rule');
    await form.getByRole('button', { name: 'Save', exact: true }).click();
    await page.getByRole('switch', { name: 'Sounds that changed' }).waitFor();
    await page.getByRole('link', { name: '2', exact: true }).waitFor();
    await page.getByRole('switch', { name: 'Sounds that changed' }).click();
    await page.getByRole('link', { name: '2', exact: true }).waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Remove' }).click();
    await page.getByRole('switch', { name: 'Sounds that changed' }).waitFor({ state: 'detached' });
  });

  it('is gone through with keys: choose several, mark them, take it back, label and remark', async () => {
    await go(`/findings?${span}&kind=map`);
    await options().first().waitFor();
    const count = await options().count();
    await page.keyboard.press(' ');
    await page.keyboard.press('Shift+ArrowRight');
    await page.getByText('the 2 selected').waitFor();
    await page.keyboard.press('s');
    await page.getByText('2 of 42 marked').waitFor();
    await page.keyboard.press('u');
    await page.getByText('0 of 42 marked').waitFor();
    await page.keyboard.press('Escape');
    await page.getByText('the 2 selected').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Mark many' }).click();
    await typeInto(page.getByLabel('Label for these'), 'isles');
    await page.getByRole('button', { name: 'Label', exact: true }).click();
    await page.getByText(`${count} findings changed`).waitFor();
    await page.getByLabel('Label', { exact: true }).selectOption({ label: 'isles' });
    await page.getByText(`${count} shown`).waitFor();
    await typeInto(page.getByLabel('Remark'), 'Was this there in spring?');
    await typeInto(page.getByLabel('Your name'), 'Ada');
    await page.getByRole('button', { name: 'Remark' }).click();
    await page.getByText('Was this there in spring?').first().waitFor();
    await expectAccessible(page, 'the pass');
  });

  it('shows two people each other’s marks as they make them', async () => {
    const other = await openPage(browser);
    await other.page.context().addCookies([{ name: 'worvel_person', value: 'Bo', url }]);
    await go(`/findings?${span}&kind=model`);
    await go(`/findings?${span}&kind=model`, other.page);
    await option('gru_white.glb').waitFor();
    await option('gru_white.glb', other.page).click();
    await other.page.keyboard.press('k');
    await option('gru_white.glb').getByText('kept').waitFor();
    await page.getByText('Bo: 1 finding kept').waitFor();
    await option('gru_white.glb').click();
    await page.keyboard.press('t');
    await option('gru_white.glb', other.page).getByText('→ Ada').waitFor();
    expect(other.errors).to.deep.equal([]);
    await other.page.close();
  });

  it('goes from a finding to an entry in one step', async () => {
    await go(`/findings?${span}&text=isle_white`);
    await page.getByRole('button', { name: 'Start an entry' }).click();
    await page.waitForURL(/catalogue\/\d+/);
  });

  it('compares pictures side by side, by swiping, in turns and by what differs, with values below the pointer', async () => {
    await compare('data/pictures.zip!/ground/moss_col.png');
    await page.getByText('The same picture in other colours').waitFor();
    await page.getByRole('img', { name: 'after, 0.2' }).hover();
    await page.getByText(/\d+, \d+: \d+ \d+ \d+ 255 → \d+ \d+ \d+ 255/).waitFor();
    await expectAccessible(page, 'pictures side by side');
    await page.keyboard.press('2');
    await page.getByRole('slider', { name: 'How much of the older one' }).waitFor();
    expect(new URL(page.url()).searchParams.get('way')).to.equal('swipe');
    await page.keyboard.press('3');
    await page.getByRole('region', { name: 'after, 0.2', exact: true }).waitFor();
    await page.keyboard.press('b');
    await page.getByRole('region', { name: 'before, 0.1' }).waitFor();
    await page.keyboard.press('4');
    await page.getByRole('slider', { name: 'Amplification' }).waitFor();
    await page.getByRole('button', { name: 'Alpha' }).click();
    await page.reload();
    await page.getByRole('slider', { name: 'Amplification' }).waitFor();
  });

  it('compares models with one camera, over one another, and in colours of the distance', async () => {
    await compare('data/models.zip!/birds/gru_grey.glb');
    await page.getByRole('button', { name: 'nod' }).click();
    await page.getByRole('slider', { name: 'Moment' }).waitFor();
    await page.getByRole('button', { name: 'Bones' }).click();
    await page.getByText('nod: head up to 186 mm').waitFor();
    await expectAccessible(page, 'models side by side');
    await compare('data/models.zip!/plants/rd_3_l0.glb', '&way=distance');
    await page.getByRole('img', { name: 'Colours from 0 to 322 mm from the older surface' }).waitFor();
    await page.getByRole('button', { name: 'Over one another' }).click();
    await page.getByText('the older one is see-through').waitFor();
  });

  it('compares sounds: waveforms, spectrograms, difference, either heard', async () => {
    await compare('music/lamplight.wav');
    await page.getByText('Stretches in colour are other.').waitFor();
    await page.getByRole('button', { name: 'Hear before' }).click();
    await page.getByText('before, 0.1, heard').waitFor();
    await page.getByRole('button', { name: 'Spectrograms' }).click();
    await page.getByText('listening').first().waitFor({ state: 'detached' });
    await page.getByRole('button', { name: 'Difference' }).click();
    await page.getByText('what differs, once level and filter').waitFor();
    await expectAccessible(page, 'sounds');
  });

  it('compares maps on a plan, as a list and in 3D, and texts by values, lines and words', async () => {
    await compare('maps/isle_market.json');
    await page.getByRole('application', { name: 'Plan with 4 changes' }).focus();
    await page.keyboard.press('ArrowRight');
    await page.getByText(/^gone .*, at /).waitFor();
    await page.getByRole('button', { name: 'List' }).click();
    expect(await page.getByRole('listitem').filter({ hasText: 'gone' }).count()).to.be.at.least(4);
    await page.getByRole('button', { name: '3D' }).click();
    await page.getByRole('application', { name: 'Changes in 3D' }).waitFor();
    await compare('text/de/birds.json');
    await page.getByRole('cell', { name: 'birds.white' }).waitFor();
    await page.getByRole('button', { name: 'Side by side' }).click();
    await page.getByRole('region', { name: 'Lines' }).getByText('Ist dieser Reiher').waitFor();
    await expectAccessible(page, 'texts');
    const download = page.waitForEvent('download');
    await page.getByRole('button', { name: 'Save as JSON patch' }).click();
    expect((await download).suggestedFilename()).to.equal('birds.json.patch.json');
  });

  it('compares any two things, and says what is wrong with an address', async () => {
    await compare(
      'data/models.zip!/props/lum/lum_pier_l0.glb',
      `&oldPath=${encodeURIComponent('data/models.zip!/props/lum/lum_bow_l0.glb')}`,
    );
    await page.getByText(/The surface is up to/).waitFor();
    await typeInto(page.getByRole('textbox', { name: 'Before, path' }), 'nowhere.glb');
    await page.getByRole('button', { name: 'Compare' }).click();
    await page.getByText('The build 0.1 has no asset at nowhere.glb.').waitFor();
    // The browser tells of the answer that was no success.
    errors.splice(0);
  });

  it('shows a thing along the builds, with what changed each time', async () => {
    await go(`/asset?to=0.2&path=${encodeURIComponent('data/models.zip!/props/lum/lum_pier_l0.glb')}`);
    const strip = page.getByRole('list', { name: 'Along the builds' });
    await strip.getByText('The surface is up to 10.0 mm off').waitFor();
    await strip.getByRole('link', { name: 'Compare' }).click();
    await page.getByText('before, 0.1').first().waitFor();
    // Packed anew is no change, here as in the findings.
    await go(`/asset?to=0.2&path=${encodeURIComponent('data/pictures.zip!/ground/moss_nrm.png')}`);
    await strip.getByText('0.2 repacked').waitFor();
    await strip.getByText('Other bytes, same decoded content.').waitFor();
  });

  it('is as readable at night', async () => {
    const night = await openPage(browser, { colorScheme: 'dark' });
    for (const path of [
      `/news?${span}`,
      `/findings?${span}`,
      `/noise?${span}`,
      `/compare?${span}&path=text/de/birds.json&way=side`,
    ]) {
      await go(path, night.page);
      await night.page
        .getByText(/New|Ist dieser/)
        .first()
        .waitFor();
      await expectAccessible(night.page, path);
    }
    await night.page.close();
  });
});
