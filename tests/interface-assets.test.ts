import { expect } from 'chai';
import type { Browser, Page } from 'playwright-core';
import { setTimeout as sleep } from 'node:timers/promises';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const asset = (path: string): string =>
  `/Mossline%20Ferry/main/asset?from=0.1&to=0.2&path=${encodeURIComponent(path)}`;

/** The real interface, in a real browser: one thing with all that is known of it, of each kind. */
describe('The interface of an asset', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];
  before(async () => {
    await house.open();
    await house.indexDemo();
    url = await house.serve(testPort(8));
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string): Promise<void> => {
    await page.goto(url + path);
    await page.getByRole('main').waitFor();
  };

  it('shows a model that can be turned, and plays its clip', async () => {
    await go(asset('data/models.zip!/birds/gru_white.glb'));
    const stage = page.getByRole('application', { name: /^Model gru_white/ });
    await page.getByRole('tab', { name: 'Clips' }).click();
    await page.getByRole('treeitem', { name: /nod.*2\.40 s/ }).waitFor();
    const before = await pixels(page);
    expect(new Set(before).size).to.be.greaterThan(50);
    await stage.focus();
    for (let turn = 0; turn < 6; turn++) await page.keyboard.press('ArrowLeft');
    expect(await pixels(page)).not.to.deep.equal(before);
    await page.getByRole('treeitem', { name: /nod/ }).first().click();
    await page.getByRole('button', { name: 'Pause' }).click();
    await page.getByRole('button', { name: 'Play', exact: true }).waitFor();
    await page.getByText('0.95 × 2.12 × 0.64 m').waitFor();
    await expectAccessible(page, 'a model');
  });

  it('shows a model with its files beside it, and says what is missing in the older build', async () => {
    await go(asset('models/boathouse/boathouse_l0.gltf'));
    await page.getByRole('tree', { name: 'Parts' }).getByText('planks').waitFor();
    await go(asset('models/boathouse/boathouse_l0.gltf').replace('from=0.1&to=0.2', 'to=0.1'));
    await page.getByText('Missing', { exact: true }).waitFor();
    await page.getByText('deck_board_col.png').first().waitFor();
    // The texture that is not there is asked for and refused, which may come later than what is written.
    for (let round = 0; round < 100 && errors.length < 2; round++) await sleep(100);
    errors.splice(0);
  });

  it('shows a picture at a known scale', async () => {
    await go(asset('data/pictures.zip!/loading/fog.png'));
    await page.getByText('Under the pointer').waitFor();
    await page.getByRole('application', { name: /^fog\.png, 768 by 768 pixels/ }).focus();
    for (const key of ['1', '+']) await page.keyboard.press(key);
    await page.waitForURL(/at=2%2C/);
    await expectAccessible(page, 'a picture');
  });

  it('plays a sound from its waveform, and knows its loop', async () => {
    await go(asset('music/lamplight.wav'));
    await page.getByText('Play the loop, 2.00 s to 12.00 s').waitFor();
    await page.getByRole('group', { name: /^Waveform/ }).focus();
    await page.keyboard.press('ArrowRight');
    await page.getByText('1.00 s of 12.00 s').waitFor();
    await page.getByRole('button', { name: 'Play', exact: true }).click();
    await page.getByRole('button', { name: 'Pause' }).waitFor();
    await page.getByRole('button', { name: 'Pause' }).click();
    await expectAccessible(page, 'a sound');
  });

  it('shows a map from above and in 3D, its classes, and what the build lacks', async () => {
    await go(asset('maps/isle_fog.json'));
    await page.getByText('This build lacks 1 model that the map names').waitFor();
    const plan = page.getByRole('application', { name: 'Plan with 51 placements' });
    await plan.focus();
    await page.keyboard.press('ArrowRight');
    await page.getByText('fog_000 (light)').waitFor();
    // Once more, and nothing is chosen: all of it comes into view.
    await page.getByRole('treeitem', { name: /^fog_000/ }).click();
    await page.getByText('fog_000 (light)').waitFor({ state: 'detached' });
    await page.getByRole('button', { name: /^boat / }).click();
    await page.getByRole('application', { name: /^Plan with 4\d placements/ }).waitFor();
    await page.getByRole('button', { name: 'In 3D' }).click();
    await page.getByText(/^\d+ as they are, 1\d models here$/).waitFor({ timeout: 60_000 });
    expect(new Set(await pixels(page)).size).to.be.greaterThan(50);
    // The whole isle is in view, and not the first thing that stands on it.
    await page.getByText(/^\d0 m$/).waitFor();
    await expectAccessible(page, 'a map');
  });

  it('shows text, and the history of what changed', async () => {
    await go(asset('text/en/birds.json'));
    await page.getByText('"birds.white": "Is that heron white?"').waitFor();
    const history = page.getByRole('list', { name: 'Along the builds' });
    await history.getByText('appeared').waitFor();
    await history.getByText('“birds.white” new: Is that heron white?').waitFor();
    await history.getByRole('link', { name: '0.1' }).click();
    await page.getByText('Build 0.1', { exact: true }).waitFor();
    await page.getByText('"birds.white"').waitFor({ state: 'detached' });
  });

  it('tells of what could not be read', async () => {
    await go(asset('interface/signs/sg_cut.png'));
    await page.getByRole('alert').getByText('the picture cannot be decoded').waitFor();
    await go('/Mossline%20Ferry/main/library?to=0.2');
    await page.getByText('1 problem in this build').click();
    await page.getByText('interface/signs/sg_cut.png').waitFor();
    await go(asset('no/such/thing.png'));
    await page.getByRole('alert').getByText('The build 0.2 has no asset at no/such/thing.png.').waitFor();
    expect(errors.splice(0).join()).to.include('404');
  });

  it('keeps a note in Markdown, shows how it will look, and refuses to overwrite another one’s', async () => {
    await go(asset('data/pictures.zip!/loading/fog.png'));
    await page.getByRole('link', { name: 'Write a note' }).click();
    await page.getByRole('heading', { name: 'Note on fog.png' }).waitFor();
    await typeInto(
      page.getByLabel('Note in Markdown'),
      '1. Open `data/pictures.zip`.\n2. Crop **the border**.',
    );
    await page.getByRole('button', { name: 'Preview' }).click();
    await page.locator('strong', { hasText: 'the border' }).waitFor();
    const { page: other } = await openPage(browser);
    await other.goto(page.url());
    await other.getByLabel('Note in Markdown').waitFor();
    await page.getByRole('button', { name: 'Save the note' }).click();
    await page.getByRole('tab', { name: 'Revisions' }).click();
    await page.getByText('The words before the steps are new.').waitFor();
    await typeInto(other.getByLabel('Note in Markdown'), 'mine');
    await other.getByRole('button', { name: 'Save the note' }).click();
    await other.getByText('Somebody else saved this note meanwhile').waitFor();
    expect(await other.getByLabel('Note in Markdown').inputValue()).to.equal('mine');
    await other.close();
    await page.getByRole('link', { name: 'data/pictures.zip!/loading/fog.png' }).click();
    await page.locator('strong', { hasText: 'the border' }).waitFor();
  });
});

/** Some of what the canvas shows. */
async function pixels(page: Page): Promise<number[]> {
  await page.waitForTimeout(800);
  const picture = await page.locator('canvas').first().screenshot();
  return page.evaluate(async (base64) => {
    const image = new Image();
    image.src = `data:image/png;base64,${base64}`;
    await image.decode();
    const canvas = Object.assign(document.createElement('canvas'), { width: 160, height: 120 });
    const context = canvas.getContext('2d');
    context?.drawImage(image, 0, 0, 160, 120);
    return [...new Uint32Array(context?.getImageData(0, 0, 160, 120).data.buffer ?? new ArrayBuffer(0))];
  }, picture.toString('base64'));
}
