import { expect } from 'chai';
import type { Browser } from 'playwright-core';
import { openEnd } from '../server/acquire/builds/spans.ts';
import { bulkLoad } from '../server/platform/database/bulk-load.ts';
import { change, select } from '../server/platform/database/rows.ts';
import { hashOf, pathDigest } from '../server/store/hash.ts';
import { openBrowser, openPage, typeInto } from './support/browser.ts';
import { TestHouse, testPort } from './support/worvel.ts';

const count = 100_000;

/** An update with a hundred thousand findings, written straight into the tables. */
describe('A hundred thousand findings', () => {
  const house = new TestHouse();
  let url: string;
  let browser: Browser;
  before(async () => {
    await house.open();
    url = await house.serve(testPort(7));
    browser = await openBrowser();
    await change(house.pool, "INSERT INTO titles (id, name, rights) VALUES (1, 'Many', '')");
    await change(house.pool, "INSERT INTO channels (id, title_id, name) VALUES (1, 1, 'main')");
    const paths = Array.from(
      { length: count },
      (_, index) => `group_${index % 100}/thing_${String(index).padStart(6, '0')}.bin`,
    );
    const keyed = paths
      .map((path) => ({ path, digest: pathDigest(path) }))
      .sort((a, b) => Buffer.compare(a.digest, b.digest));
    for (let from = 0; from < count; from += 20_000) {
      const part = keyed.slice(from, from + 20_000);
      await bulkLoad(
        house.pool,
        {
          table: 'paths',
          columns: [{ name: 'digest', binary: true }, { name: 'path' }],
          onDuplicate: 'ignore',
        },
        part.map(({ digest, path }) => [digest, path]),
      );
      await bulkLoad(
        house.pool,
        {
          table: 'asset_spans',
          columns: [
            { name: 'channel_id' },
            { name: 'path_digest', binary: true },
            { name: 'first_sequence' },
            { name: 'last_sequence' },
            { name: 'role' },
            { name: 'format' },
            { name: 'by_extension' },
            { name: 'size' },
            { name: 'hash', binary: true },
            { name: 'unit_digest', binary: true },
          ],
          onDuplicate: 'ignore',
        },
        part.map(({ digest, path }) => [
          1,
          digest,
          2,
          openEnd,
          0,
          'binary',
          1,
          path.length * 1000,
          hashOf(digest),
          digest,
        ]),
      );
    }
    // Last: the server makes the findings of a build as soon as it sees it.
    const result = JSON.stringify({
      title: 'Many',
      channel: 'main',
      build: '',
      files: count,
      containers: 0,
      bytes: 0,
      newContents: 0,
      newBytes: 0,
      locked: 0,
      unreadable: 0,
      seconds: 1,
    });
    for (const sequence of [1, 2]) {
      await change(
        house.pool,
        "INSERT INTO builds (channel_id, sequence, label, source, released_at, indexed_at, result) VALUES (1, ?, ?, '', NOW(3), NOW(3), ?)",
        [sequence, String(sequence), result],
      );
    }
  });
  after(async () => {
    await browser.close();
    await house.close();
  });

  it('stand in the page a screenful at a time, from the first to the last', async () => {
    const { page, errors } = await openPage(browser);
    await page.goto(`${url}/Many/main/findings?from=1&to=2&view=table`);
    const options = page.getByRole('listbox', { name: 'Findings' }).getByRole('option');
    await options.first().waitFor();
    await page.getByText('100,000 shown').waitFor();
    expect(await options.count()).to.be.lessThan(60);
    await page.keyboard.press('End');
    await page.getByText('100,000 of 100,000').waitFor();
    await page.getByRole('option', { name: /thing_099999/ }).waitFor();
    expect(await options.count()).to.be.lessThan(60);
    await page.keyboard.press('Home');
    await page.getByText('1 of 100,000').waitFor();
    // The page of keys is not blocked either: a key moves on at once, whatever is loading.
    for (let step = 0; step < 40; step++) await page.keyboard.press('ArrowDown');
    await page.getByText('41 of 100,000').waitFor();
    // A choice takes in what was never in view.
    await page.keyboard.press('PageDown');
    await page.keyboard.press('Home');
    await page.keyboard.press('Shift+End');
    await page.getByText('the 20,000 selected').waitFor();
    await page.keyboard.press('Escape');
    await typeInto(page.getByLabel('Words in the path'), 'thing_0777');
    await page.getByText('100 shown').waitFor();
    expect(errors).to.deep.equal([]);
    await page.close();
  });

  it('are found by the indexes that were made for it', async () => {
    const plan = await select<{ key: string | null; table: string }>(
      house.pool,
      'EXPLAIN SELECT s.hash FROM asset_spans s WHERE s.channel_id = 1 AND s.last_sequence >= 1 AND s.last_sequence < 2 AND s.first_sequence <= 1',
    );
    expect(plan.map(({ key }) => key).join()).to.match(/spans_by_(last|first)/);
  });
});
