import { expect } from 'chai';
import { copyFileSync, mkdirSync, readdirSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { spriteTablesSchema } from '../contract/sprites.ts';
import { expectAccessible, typeInto } from './support/browser.ts';
import { showTree } from './support/shown-tree.ts';

const title = 'Texts';
const rows = 5000;

async function writeTree(folder: string): Promise<void> {
  mkdirSync(join(folder, 'sprites'), { recursive: true });
  writeFileSync(
    join(folder, 'boats.json'),
    JSON.stringify(
      { boats: Array.from({ length: 40 }, (_, at) => ({ name: `mast ${at}`, seats: at })) },
      null,
      2,
    ),
  );
  writeFileSync(join(folder, 'rules.ini'), '; what holds\n[boat]\nmast = 2\nsail = 1\n[bird]\nwing = 2\n');
  writeFileSync(
    join(folder, 'fares.csv'),
    `id,coins,who\n${Array.from({ length: rows }, (_, at) => `fare_${at},${(at * 37) % 1009},${at % 2 ? 'child' : 'grown'}`).join('\n')}\n`,
  );
  const files = join(
    dirname(createRequire(import.meta.url).resolve('@fontsource/literata/package.json')),
    'files',
  );
  const font =
    readdirSync(files).find((name) => /latin-400-normal\.woff2$/.test(name) && !/ext/.test(name)) ?? '';
  copyFileSync(join(files, font), join(folder, 'letters.woff2'));
  writeFileSync(
    join(folder, 'broken.ttf'),
    Buffer.concat([Buffer.from([0, 1, 0, 0, 0, 12]), Buffer.alloc(400, 7)]),
  );
  // Four squares of one colour each, and a table that cuts them; another one cuts a larger picture.
  const colours = [
    [255, 0, 0],
    [0, 255, 0],
    [0, 0, 255],
    [255, 255, 0],
  ];
  const raw = new Uint8Array(32 * 8 * 3);
  for (let y = 0; y < 8; y++) for (let x = 0; x < 32; x++) raw.set(colours[x >> 3] ?? [], (y * 32 + x) * 3);
  writeFileSync(
    join(folder, 'sprites', 'signs.png'),
    await sharp(raw, { raw: { width: 32, height: 8, channels: 3 } })
      .png()
      .toBuffer(),
  );
  writeFileSync(
    join(folder, 'sprites', 'signs.json'),
    JSON.stringify({
      frames: Object.fromEntries(
        ['oar', 'net', 'rope', 'flag'].map((name, at) => [name, { frame: { x: at * 8, y: 0, w: 8, h: 8 } }]),
      ),
    }),
  );
  writeFileSync(
    join(folder, 'sprites', 'other.xml'),
    '<a image="signs.png"><s name="far" x="900" y="0" w="8" h="8"/></a>',
  );
}

/** Texts, tables, fonts and sprite sheets in the real interface. */
describe('Texts, tables, fonts and sheets of sprites', () => {
  const shown = showTree(title, writeTree);

  it('colours a text by its format, finds in it and folds it', async () => {
    await shown.go('boats.json');
    const text = shown.page.getByRole('region', { name: 'Text' });
    await text.getByText('"mast 0"').waitFor();
    const colours = await Promise.all(
      [/^"seats"$/, /^0$/, /^"mast 0"$/].map((words) =>
        text
          .locator('.cm-line > span', { hasText: words })
          .first()
          .evaluate((element) => getComputedStyle(element).color),
      ),
    );
    expect(new Set(colours).size, String(colours)).to.equal(3);
    await typeInto(text.getByRole('searchbox', { name: 'Find in the text' }), 'MAST 3');
    await text.getByText('1 of 11').waitFor();
    expect(await text.locator('.cm-found').count()).to.be.at.least(1);
    await shown.page.keyboard.press('Enter');
    await text.getByText('2 of 11').waitFor();
    await shown.page.keyboard.press('Shift+Enter');
    await shown.page.keyboard.press('Shift+Enter');
    await text.getByText('11 of 11').waitFor();
    await text.getByText('"mast 39"').waitFor();
    await typeInto(text.getByRole('searchbox', { name: 'Find in the text' }), 'keel');
    await text.getByText('Not there').waitFor();
    await text.getByRole('button', { name: 'Unfold all' }).click();
    await text.getByRole('button', { name: 'Fold all', exact: true }).click();
    await text.getByText('"mast 39"').waitFor({ state: 'detached' });
    await text.getByRole('button', { name: 'Unfold all' }).click();
    await expectAccessible(shown.page, 'a text');
    // A key leads to the field from within the text.
    await text.locator('.cm-content').click();
    await shown.page.keyboard.press('Control+f');
    await shown.page.keyboard.type('seats');
    await text.getByText('of 40').waitFor();
  });

  it('folds sections of settings', async () => {
    await shown.go('rules.ini');
    const text = shown.page.getByRole('region', { name: 'Text' });
    await text.getByText('mast').waitFor();
    await text.getByRole('button', { name: 'Fold all', exact: true }).click();
    await text.getByText('sail').waitFor({ state: 'detached' });
    await text.getByText('[bird]').waitFor();
  });

  it('sorts a table by any column and filters its rows, thousands of them', async () => {
    await shown.go('fares.csv');
    const table = shown.page.getByRole('table', { name: 'Table' });
    await shown.page.getByText('5,000 rows, 3 columns').waitFor();
    const firstRow = async (): Promise<string[]> =>
      (await table.getByRole('row').nth(1).getByRole('cell').allInnerTexts()).slice(1);
    expect(await firstRow()).to.deep.equal(['fare_0', '0', 'grown']);
    await table.getByRole('button', { name: 'coins' }).click();
    await table.getByRole('button', { name: 'coins' }).click();
    await shown.until(async () => (await firstRow())[1] === '1008', 'the most coins');
    expect(await table.getByRole('columnheader', { name: 'coins' }).getAttribute('aria-sort')).to.equal(
      'descending',
    );
    await typeInto(shown.page.getByRole('searchbox', { name: 'Find rows' }), 'fare_12 child');
    await shown.page.getByText('55 of 5,000 rows, 3 columns').waitFor();
    await expectAccessible(shown.page, 'a table');
    await shown.page.getByRole('button', { name: 'Text', exact: true }).click();
    await shown.page.getByRole('region', { name: 'Text' }).getByText('id,coins,who').waitFor();
  });

  it('writes what is typed in a font, and says what the font lacks', async () => {
    await shown.go('letters.woff2');
    const field = shown.page.getByRole('textbox', { name: 'What the font writes' });
    await typeInto(field, 'Ferry Ж');
    await shown.page.getByText('It lacks Ж of what is typed', { exact: false }).waitFor();
    const family = await field.evaluate((element) => getComputedStyle(element).fontFamily);
    expect(await shown.page.evaluate((name) => document.fonts.check(`20px ${name}`), family)).to.equal(true);
    await typeInto(shown.page.getByRole('searchbox', { name: 'Find a character' }), 'U+0041');
    await shown.page.getByText('U+0041 is there').waitFor();
    await typeInto(shown.page.getByRole('searchbox', { name: 'Find a character' }), 'Ж');
    await shown.page.getByText('U+0416 is not there').waitFor();
    await typeInto(shown.page.getByRole('searchbox', { name: 'Find a character' }), 'Q');
    await shown.page.getByText('U+0051 is there').waitFor();
    await shown.page.getByRole('button', { name: 'Q', exact: true }).click();
    await shown.until(() => shown.query('type') === 'Ferry ЖQ', 'what was typed, in the address');
    await expectAccessible(shown.page, 'a font');
  });

  it('goes through its folder by two keys, also where a key comes before the folder is known', async () => {
    await shown.page.route('**/api/folder*', async (route) => {
      await shown.page.waitForTimeout(1500);
      await route.continue();
    });
    await shown.go('boats.json');
    await shown.page.getByRole('heading', { name: 'boats.json' }).waitFor();
    for (const key of ['PageDown', 'PageDown']) await shown.page.keyboard.press(key);
    await shown.until(() => shown.query('path') === 'fares.csv', 'the one after the next');
    await shown.page.unroute('**/api/folder*');
    await shown.page.getByRole('heading', { name: 'fares.csv' }).waitFor();
    await shown.page.keyboard.press('PageUp');
    await shown.until(() => shown.query('path') === 'broken.ttf', 'the one before');
  });

  it('says why a font cannot be shown', async () => {
    await shown.go('broken.ttf');
    await shown.page.getByText('This cannot be shown').waitFor();
    await shown.page.getByText('this font cannot be read', { exact: false }).first().waitFor();
  });

  it('cuts a sheet of sprites by the table that is called like it, marks a frame and plays them', async () => {
    await shown.go('sprites/signs.png');
    const strip = shown.page.getByRole('region', { name: 'Frames of the table' });
    await strip.getByText('4 frames of signs.json: it is called as the picture').waitFor();
    await strip.getByRole('button', { name: 'rope' }).click();
    await strip.getByRole('button', { name: 'rope', pressed: true }).waitFor();
    // Blue, and nothing of its neighbours.
    const box = await strip.getByRole('button', { name: 'rope' }).boundingBox();
    if (!box) throw new Error('no frame');
    const clip = { x: box.x + box.width / 2 - 20, y: box.y + box.height / 2 - 20, width: 40, height: 40 };
    await shown.until(async () => {
      const { channels } = await sharp(await shown.page.screenshot({ clip })).stats();
      return channels.slice(0, 3).every(({ min, max }, at) => min === max && max === [0, 0, 255][at]);
    }, 'a blue frame alone');
    await expectAccessible(shown.page, 'a sheet of sprites');
    await strip.getByRole('button', { name: 'Play the frames' }).click();
    await strip.getByRole('button', { name: 'net', pressed: true }).waitFor();
    await strip.getByRole('button', { name: 'Pause the frames' }).click();
    const tables = spriteTablesSchema.parse(
      await (
        await fetch(`${shown.url}/api/sprites?channel=1&build=1&path=sprites/signs.png&width=32&height=8`)
      ).json(),
    );
    // What lies beyond the picture is of another one.
    expect(tables.map(({ path }) => path)).to.deep.equal(['sprites/signs.json']);
    const hostile = await fetch(`${shown.url}/api/sprites?channel=1&build=1&path=a&width=1e9&height=8`);
    expect(hostile.status).to.equal(400);
  });
});
