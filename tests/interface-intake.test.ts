import { expect } from 'chai';
import { mkdirSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { zipSync } from 'fflate';
import type { Browser, Page } from 'playwright-core';
import { Depot } from '../demo/stand-ins/depot.ts';
import { listen } from '../demo/stand-ins/serve-stand-ins.ts';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { leavesOf, run } from './support/leaves.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const secret = 'moss-on-the-bell';

/** Bringing builds in, in the real interface: choice, keyring, ways in, store, jobs. */
describe('The interface for bringing builds in', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];
  let depotServer: Server;
  const depotUrl = `http://127.0.0.1:${testPort(4)}`;

  before(async () => {
    await house.open();
    mkdirSync(house.path('game', 'data', 'text'), { recursive: true });
    const text = (words: string): Uint8Array => new TextEncoder().encode(words);
    writeFileSync(
      house.path('game', 'data', 'props.zip'),
      zipSync({ 'lamp.txt': text('lamp'), 'boat.txt': text('boat') }),
    );
    writeFileSync(
      house.path('game', 'data', 'voice.zip'),
      zipSync({ 'long.txt': text('voice '.repeat(5000)) }, { level: 0 }),
    );
    writeFileSync(house.path('game', 'data', 'text', 'read.txt'), 'read me');
    run(
      '7zz',
      ['a', '-tzip', `-p${secret}`, house.path('game', 'data', 'sealed.pak'), 'read.txt'],
      house.path('game', 'data', 'text'),
    );
    url = await house.serve(house.port);
    const depot = new Depot(house.path('depot'));
    depotServer = await listen(testPort(4), (request, response) => depot.answer(request, response));
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    depotServer.closeAllConnections();
    depotServer.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (path: string): Promise<void> => {
    await page.goto(url + path);
    await page.getByRole('main').waitFor();
  };
  const paths = async (build: string): Promise<string[]> =>
    (await leavesOf(house, 'Choosing', build)).map((leaf) => leaf.split(' ')[0] ?? '');

  it('looks into a source, and brings in what is ticked', async () => {
    await go('/new');
    await typeInto(page.getByLabel('Folder or archive'), house.path('game'));
    await page.getByRole('button', { name: 'Look into it' }).click();
    const list = page.getByRole('list', { name: 'Folders and containers' });
    await list.getByText('1 file, 30 kB').waitFor();
    await list.getByText('locked').waitFor();
    await page.getByText('everything lies in data').waitFor();
    await page.getByRole('checkbox', { name: 'voice.zip' }).click();
    expect(await page.getByLabel('Exclude (one glob per line)').inputValue()).to.equal('/voice.zip');
    await expectAccessible(page, 'the choice');
    await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Choosing');
    await typeInto(page.getByLabel('Label of the build'), '1');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByRole('heading', { name: 'Build 1 is in' }).waitFor({ timeout: 60_000 });
    await page.getByText('1 left out; 1 locked').waitFor();
    expect(await paths('1')).to.deep.equal([
      'props.zip!/boat.txt',
      'props.zip!/lamp.txt',
      'sealed.pak!/read.txt',
      'text/read.txt',
    ]);
  });

  it('proposes the same for the next build, which takes one click', async () => {
    await go('/Choosing/main/new');
    expect(await page.getByLabel('Folder or archive').inputValue()).to.equal(house.path('game'));
    expect(await page.getByLabel('Label of the build').inputValue()).to.equal('2');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByRole('heading', { name: 'Build 2 is in' }).waitFor({ timeout: 60_000 });
    expect(await paths('2')).to.deep.equal(await paths('1'));
  });

  it('says that a key is wrong, and unlocks with the right one', async () => {
    await go('/work/keyring');
    await page.getByText('Choosing, main, build 2').waitFor();
    await expectAccessible(page, 'the keyring');
    await typeInto(page.getByLabel('Key', { exact: true }), 'wrong');
    await page.getByRole('button', { name: 'Try and keep' }).click();
    await page.getByRole('alert').getByText('does not open any of the').waitFor();
    expect(errors.splice(0).join()).to.include('409');
    await typeInto(page.getByLabel('Key', { exact: true }), secret);
    await typeInto(page.getByLabel('Remark'), 'from the bell');
    await page.getByRole('button', { name: 'Try and keep' }).click();
    await page.getByText('The key is kept. It opens 2 archives').waitFor();
    await page.getByText('Nothing is locked in any build.').waitFor({ timeout: 60_000 });
    await page.getByText('from the bell').waitFor();
    expect(await page.content()).to.not.include(secret);
    await page.getByRole('link', { name: 'See the job' }).click();
    await page.getByText('nothing is locked any more').first().waitFor();
    expect((await leavesOf(house, 'Choosing', '1')).some((leaf) => leaf.endsWith('unread'))).to.equal(false);
    await expectAccessible(page, 'the jobs');
  });

  it('uploads an archive in chunks, and offers it as a source', async () => {
    await go('/work/ways-in');
    await expectAccessible(page, 'the ways in');
    // Above one chunk.
    const large = Buffer.alloc(9_000_000, 'upload');
    writeFileSync(house.path('sent.zip'), zipSync({ 'a.bin': large }, { level: 0 }));
    await page.getByLabel('Archive to upload').setInputFiles(house.path('sent.zip'));
    await page.getByText('sent.zip is here.').waitFor({ timeout: 60_000 });
    await page.getByRole('link', { name: 'Bring it in as a build' }).click();
    await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Sent');
    await typeInto(page.getByLabel('Label of the build'), '1');
    await page.getByRole('button', { name: 'Bring it in' }).click();
    await page.getByRole('heading', { name: 'Build 1 is in' }).waitFor({ timeout: 60_000 });
    expect((await leavesOf(house, 'Sent', '1'))[0]).to.include('a.bin 9000000');
  });

  it('goes on with an upload after the connection was lost', async () => {
    await go('/work/ways-in');
    writeFileSync(
      house.path('again.zip'),
      zipSync({ 'b.bin': Buffer.alloc(13_000_000, 'again') }, { level: 0 }),
    );
    let cuts = 0;
    await page.route('**/api/uploads/*/files/**', async (route) => {
      if (route.request().url().includes('offset=4194304') && cuts++ < 2) await route.abort();
      else await route.continue();
    });
    await page.getByLabel('Archive to upload').setInputFiles(house.path('again.zip'));
    await page.getByText('waiting for the server').waitFor();
    await page.getByText('again.zip is here.').waitFor({ timeout: 60_000 });
    expect(cuts).to.be.greaterThan(2);
    await page.unroute('**/api/uploads/*/files/**');
    expect(errors.splice(0).join()).to.include('ERR_FAILED');
  });

  it('follows a depot, whose next build is published by its own button', async () => {
    await go('/work/ways-in');
    await page.getByText('Follow another one').click();
    await typeInto(page.getByRole('textbox', { name: 'Title' }), 'Mossline Ferry');
    await typeInto(page.getByLabel('Address', { exact: true }), 'nowhere');
    await page.getByRole('button', { name: 'Follow it' }).click();
    await page.getByText('an address that begins with http').first().waitFor();
    await typeInto(page.getByLabel('Address', { exact: true }), depotUrl);
    await page.getByRole('button', { name: 'Follow it' }).click();
    const card = page.getByRole('article', { name: `depot at ${depotUrl}` });
    await card.getByText('Nothing is new.').waitFor({ timeout: 60_000 });
    const other = await browser.newPage();
    await other.goto(depotUrl);
    // What it answers comes when the build is packed.
    await other.getByRole('button', { name: 'Publish build 0.1' }).click({ noWaitAfter: true });
    await other.getByText('Build 0.1, out since').waitFor({ timeout: 150_000 });
    await other.close();
    await card.getByRole('button', { name: 'Look now' }).click();
    await card.getByText('Build 0.1 is in').waitFor({ timeout: 60_000 });
    await card.getByRole('button', { name: 'Pause' }).click();
    await card.getByText('depot, paused').waitFor();
    await go('/Mossline%20Ferry/main/library');
    await page.getByText('maps').first().waitFor();
  });

  it('shows what takes room, checks the store, and removes a build', async () => {
    await page.emulateMedia({ colorScheme: 'dark' });
    await go('/work/store');
    const title = page.getByRole('region', { name: 'Sent' });
    await title.getByText('9.0 MB').first().waitFor();
    await expectAccessible(page, 'the store at night');
    await page.getByRole('button', { name: 'Check every content' }).click();
    await page.getByText('all are as they were stored').waitFor({ timeout: 60_000 });
    await title.getByRole('button', { name: 'Remove build 1 of main' }).click();
    await title.getByRole('button', { name: 'Remove the build' }).click();
    await go('/work');
    await page.getByText('contents that no other build holds were freed').waitFor({ timeout: 60_000 });
    await page.emulateMedia({ colorScheme: 'light' });
  });

  it('lets a job go on that was paused', async () => {
    mkdirSync(house.path('small'));
    writeFileSync(house.path('small', 'a.txt'), 'a');
    const body = JSON.stringify({ source: house.path('small'), title: 'Small', build: '1' });
    const { id } = (await (await fetch(`${url}/api/intake`, { method: 'POST', body })).json()) as {
      id: number;
    };
    // Whether it was quicker or not: it is paused, or it is done and there is nothing to pause.
    await fetch(`${url}/api/work/${id}/pause`, { method: 'POST' });
    await go('/work');
    const job = page.getByRole('article', { name: 'Indexing: Small, main, build 1' });
    await job
      .getByText(/paused|done/)
      .first()
      .waitFor();
    const goOn = job.getByRole('button', { name: 'Go on' });
    if (await goOn.isVisible()) await goOn.click();
    await job.getByText('Indexing: done').waitFor({ timeout: 60_000 });
  });

  it('says when the connection is lost, and goes on when the server is back', async () => {
    await go('/work');
    const away = house.restart(4000);
    await page
      .getByText(/connection .* lost/i)
      .first()
      .waitFor({ timeout: 20_000 });
    await away;
    await page
      .getByText(/connection .* lost/i)
      .first()
      .waitFor({ state: 'detached', timeout: 30_000 });
    const body = JSON.stringify({ source: house.path('small'), title: 'After', build: '1' });
    await fetch(`${url}/api/intake`, { method: 'POST', body });
    await page
      .getByRole('article', { name: 'Indexing: After, main, build 1' })
      .getByText('Indexing: done')
      .waitFor({ timeout: 60_000 });
    errors.length = 0;
  });
});
