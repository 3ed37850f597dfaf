import { expect } from 'chai';
import { cpSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Browser, Page } from 'playwright-core';
import { expectAccessible, openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse } from './support/worvel.ts';

const title = 'Own formats';
const models = '/usr/share/assimp/models/STL';
/** Binary STL under another ending, in lines that an editor does not indent. */
const sheet = [
  'sheet: Marsh mesh',
  'language: 1',
  "files: '*.lmod'",
  'root: { _head: bytes(80), count: u32, facets: { type: Facet, count: count } }',
  "types: { Facet: { normal: 'f32[3]', corners: 'f32[9]', _attribute: u16 } }",
  'result: { model: { parts: [{ positions: facets.corners }] } }',
];

/** Finding out how a game's own files are built, in the real interface. */
describe('The workshop for formats', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  let page: Page;
  let errors: string[];

  before(async () => {
    await house.open();
    const build = house.path('1');
    mkdirSync(build);
    cpSync(join(models, 'Spider_binary.stl'), join(build, 'spider.lmod'));
    cpSync(join(models, 'Wuson.stl'), join(build, 'wuson.lmod'));
    writeFileSync(join(build, 'broken.lmod'), readFileSync(join(models, 'Wuson.stl')).subarray(0, 5000));
    for (let file = 1; file <= 5; file++) {
      const samples = 300 + file * 77;
      const bytes = Buffer.alloc(12 + samples * 2);
      bytes.write('LSND');
      bytes.writeUInt32LE(22_050, 4);
      bytes.writeUInt32LE(samples, 8);
      for (let at = 0; at < samples; at++)
        bytes.writeInt16LE(Math.round(9000 * Math.sin(at / (5 + file))), 12 + at * 2);
      writeFileSync(join(build, `call_${file}.lsnd`), bytes);
    }
    writeFileSync(join(build, 'lamps.lprop'), '# lamps\nlamp pier 3\nlamp mast 4\n');
    const next = house.path('2');
    mkdirSync(next);
    for (let file = 1; file <= 5; file++) {
      const words = Uint32Array.from({ length: 60 + file }, (_, at) => (at * 2_654_435_761 * file) >>> 0);
      const [head, body] = [Buffer.from('LROW'), Buffer.from(words.buffer)];
      writeFileSync(join(build, `row_${file}.lrow`), Buffer.concat([head, body]));
      const owner = Buffer.from([9, 8, 7, file]);
      writeFileSync(
        join(next, `row_${file}.lrow`),
        Buffer.concat([head, body.subarray(0, 8), owner, body.subarray(8)]),
      );
    }
    await house.index(build, title, '1');
    await house.index(next, title, '2');
    url = await house.serve(house.port);
    browser = await openBrowser();
    ({ page, errors } = await openPage(browser));
  });
  after(async () => {
    await browser.close();
    await house.close();
  });
  afterEach(() => expect(errors.splice(0)).to.deep.equal([]));

  const go = async (query: string): Promise<void> => {
    await page.goto(`${url}/${encodeURIComponent(title)}/main/formats?to=1&${query}`);
    await editor().waitFor();
  };
  const editor = () => page.getByRole('textbox', { name: 'Format sheet' });
  const said = () => page.getByRole('region', { name: 'Sheet', exact: true }).getByRole('status');
  const pane = (name: string) => page.getByRole('tab', { name, exact: true }).click();
  const write = async (lines: readonly string[]): Promise<void> => {
    await editor().click();
    await page.keyboard.press('Control+a');
    for (const [at, line] of lines.entries()) {
      if (at > 0) await page.keyboard.press('Enter');
      await page.keyboard.type(line);
    }
  };

  it('tries a sheet on a file while it is written, with what is wrong at its line', async () => {
    await go('file=spider.lmod');
    await said().getByText('fields alone').waitFor();
    await write(sheet.slice(0, 4));
    await said().getByText('Line 4').waitFor();
    expect(await said().innerText()).to.include('there is no type Facet');
    await page.locator('.cm-lint-marker-error').first().waitFor();
    await page.keyboard.press('Control+End');
    for (const line of sheet.slice(4)) {
      await page.keyboard.press('Enter');
      await page.keyboard.type(line);
    }
    await said().getByText('a model of 1,368 triangles').waitFor();
    expect(await page.locator('.cm-lint-marker-error').count()).to.equal(0);
    await expectAccessible(page, 'the workshop');
  });

  it('offers the words that fit where somebody writes', async () => {
    await page.keyboard.press('Enter');
    await page.keyboard.type('rem');
    await page.getByRole('option', { name: 'remarks' }).waitFor();
    await page.keyboard.press('Escape');
    for (let letter = 0; letter < 4; letter++) await page.keyboard.press('Backspace');
    await said().getByText('a model of 1,368 triangles').waitFor();
  });

  it('shows which bytes a field has, and which field a byte has', async () => {
    const about = page.locator('#byte-looked-at');
    await page.getByRole('treeitem', { name: /^count/ }).click();
    await about.getByText('count · 4 bytes at 0x50').waitFor();
    await about.getByText('u32 1,368').waitFor();
    await typeInto(page.getByLabel('Go to'), '0x54');
    await page.keyboard.press('Enter');
    await about.getByText('facets[0].normal · 12 bytes at 0x54').waitFor();
    const bytes = page.getByRole('application', { name: /^Bytes of the file/ });
    await bytes.focus();
    await page.keyboard.press('ArrowLeft');
    await about.getByText('count · 4 bytes at 0x50, byte 3 of it').waitFor();
    await page.keyboard.press('End');
    await about.getByText('facets[1367]._attribute').waitFor();
    await page.getByRole('treeitem', { name: /^_head/ }).click();
    await about.getByText('_head · 80 bytes at 0x0').waitFor();
  });

  it('shows what comes out of it, and on how many files it fits', async () => {
    await pane('Result');
    await page.getByRole('application', { name: /arrows turn/ }).waitFor();
    await page.getByRole('button', { name: 'Wireframe' }).waitFor();
    await pane('Fit');
    await page.getByRole('button', { name: 'Try on all files' }).click();
    await page.getByText('2 of 3 files fit.').waitFor();
    await expectAccessible(page, 'the fit');
    await page.getByRole('button', { name: 'broken.lmod' }).click();
    await said()
      .getByText(/facets: count 3,732/)
      .waitFor();
    await said().getByRole('button', { name: 'Show the byte' }).click();
    await page.waitForURL(/at=84/);
  });

  it('keeps the sheet with the title, and what it describes is read', async () => {
    await page.getByRole('button', { name: 'Save for this title' }).click();
    await page.getByText('The sheet is saved.').waitFor();
    await page.getByRole('button', { name: 'Marsh mesh', exact: true }).waitFor();
    const find = async (): Promise<string> =>
      (await house.run('search', 'kind:model triangles:>1000', '--title', title, '--json')).output;
    for (let round = 0; round < 40 && !(await find()).includes('spider.lmod'); round++)
      await page.waitForTimeout(250);
    expect(await find()).to.include('spider.lmod');
  });

  it('says what unknown bytes may mean, and writes the fields that somebody takes over', async () => {
    await go('sheet=(new)&file=call_1.lsnd&pane=proposals');
    await page.getByText('5 files begin with “LSND”').waitFor();
    await page.getByText('the file is 12 bytes and 2 for each').waitFor();
    await expectAccessible(page, 'the proposals');
    await page.getByRole('button', { name: 'Write the root from these' }).click();
    await page.locator('.cm-line', { hasText: "mark: { is: 'LSND' }" }).waitFor();
    await page.getByRole('button', { name: /as pixels and samples/ }).click();
    await page.getByLabel('16 bits, little-endian, 1 channel').waitFor();
    await page.getByRole('img', { name: / × / }).first().waitFor();
  });

  it('shows a text by its lines, with the rules that took them', async () => {
    await go('sheet=(new)&file=lamps.lprop');
    await write([
      'sheet: Lamps',
      'language: 1',
      "files: '*.lprop'",
      "text: { comment: ['#'], lines: { lamp: { keyword: lamp, words: { name: word, height: number } } } }",
      'result: { table: { each: lamp, columns: { name: name, height: height } } }',
    ]);
    await page.getByText('Rules take 2 of 4 lines').waitFor();
    await pane('Result');
    await page.getByRole('cell', { name: 'mast' }).waitFor();
    await expectAccessible(page, 'a text and its table');
    // Once it is kept, the asset itself shows the table, and not its bytes.
    await page.getByRole('button', { name: 'Save for this title' }).click();
    await page.getByText('The sheet is saved.').waitFor();
    await page.goto(`${url}/${encodeURIComponent(title)}/main/asset?to=1&path=lamps.lprop`);
    await page.getByRole('table', { name: 'Table' }).getByRole('cell', { name: 'mast' }).waitFor();
    await page.getByText('sheet “Lamps”').waitFor();
  });

  it('takes a sheet back in the history, and what it read with it', async () => {
    const changes = (await (await fetch(`${url}/api/changes?title=1`)).json()) as {
      changes: { id: number; subject: string; what: string }[];
    };
    const last = changes.changes.find(({ subject }) => subject === 'format sheets');
    expect(last?.what).to.include('Lamps');
    const undone = await fetch(`${url}/api/changes/${last?.id ?? 0}/undo`, { method: 'POST' });
    expect(undone.status).to.equal(200);
    const formatOf = async (): Promise<string> => {
      const asset = await fetch(`${url}/api/asset?channel=1&build=1&path=lamps.lprop`);
      return ((await asset.json()) as { format: string }).format;
    };
    for (let round = 0; round < 80 && (await formatOf()) === 'sheet-table'; round++)
      await page.waitForTimeout(250);
    expect(await formatOf()).to.not.equal('sheet-table');
  });

  it('tells how a format changed since the build before', async () => {
    const asset = `${url}/${encodeURIComponent(title)}/main/asset?from=1&to=2&path=row_3.lrow`;
    await page.goto(asset);
    await page.getByRole('link', { name: 'Format', exact: true }).click();
    await pane('Proposals');
    const since = page.getByRole('region', { name: 'Since build 1' });
    await since.getByText('4 bytes came in at 0xC in all 5 files').waitFor();
    await since.getByRole('button', { name: '0xC' }).click();
    await page.waitForURL(/at=12/);
  });

  it('says which version of a sheet a build is read by first', async () => {
    const { sheets, revision } = (await (await fetch(`${url}/api/titles/1/format-sheets`)).json()) as {
      sheets: { text: string }[];
      revision: string;
    };
    const rows = [
      'sheet: Rows',
      'language: 1',
      "versions: ['1', '2']",
      "files: '*.lrow'",
      "root: { mark: { is: LROW }, two: 'u32[2]', owner: { type: 'u8[4]', since: '2' }, rest: 'u32[end]' }",
      'result: { table: { columns: { rows: count(rest) } } }',
    ].join('\n');
    const answer = await fetch(`${url}/api/titles/1/format-sheets`, {
      method: 'PUT',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ sheets: [...sheets, { text: rows }], revision }),
    });
    expect(answer.status).to.equal(200);
    await page.goto(`${url}/${encodeURIComponent(title)}/main/formats?from=1&to=2&sheet=Rows&pane=fit`);
    await said()
      .getByText(/^Version 2/)
      .waitFor();
    await page.getByRole('button', { name: 'Try on all files' }).click();
    await page.getByText('Version 2 fits 5.').waitFor();
    // The other one fits as well: that it is meant only a person knows.
    await page.goto(
      `${url}/${encodeURIComponent(title)}/main/formats?from=1&to=2&sheet=Rows&version=1&pane=fit`,
    );
    await said()
      .getByText(/^Version 1/)
      .waitFor();
    const builds = async (): Promise<Record<string, string>[]> => {
      const [one] = (await (await fetch(`${url}/api/titles`)).json()) as {
        channels: { builds: { settings: { formatVersions: Record<string, string> } }[] }[];
      }[];
      return one?.channels[0]?.builds.map(({ settings }) => settings.formatVersions) ?? [];
    };
    await page.getByRole('button', { name: 'Try on all files' }).click();
    await page.getByRole('button', { name: 'Try 2 first in build 2' }).click();
    await page.getByText('Build 2 is read by version 2 first.').waitFor();
    await page.getByText('It is tried first in this build.').waitFor();
    expect(await builds()).to.deep.equal([{}, { Rows: '2' }]);
    await page.getByRole('button', { name: 'Try the newest first' }).click();
    await page.getByText('Build 2 is read by the newest version that fits.').waitFor();
    expect(await builds()).to.deep.equal([{}, {}]);
  });

  it('has a place for all of it on a narrow screen', async () => {
    await page.setViewportSize({ width: 390, height: 800 });
    await go('file=spider.lmod&sheet=Marsh%20mesh');
    await said().getByText('a model of 1,368 triangles').waitFor();
    const width = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(width).to.be.at.most(390);
    await page.setViewportSize({ width: 1280, height: 800 });
  });
});
