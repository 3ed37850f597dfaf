import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { createRequire } from 'node:module';
import { openBrowser, openPage } from './support/browser.ts';
import { TestHouse } from './support/worvel.ts';

const find = createRequire(import.meta.url);
const older = dirname(find.resolve('flag-icons-old/package.json'));
const newer = dirname(find.resolve('flag-icons-new/package.json'));

/**
 * Two published versions of an open package as a real pair of builds (flag-icons 7.0.0 and 7.5.0, MIT), against an
 * independent computation: `find` and `sha256sum`, joined here.
 */
describe('Two versions of an open package', () => {
  const house = new TestHouse();
  before(async () => {
    await house.open();
    await house.serve(house.port);
  });
  after(() => house.close());

  it('give the counts that find and sha256sum give', async () => {
    const first = await house.index(older, 'Flags', '7.0.0');
    const second = await house.index(`"${newer}/"`, 'Flags', '7.5.0');
    const [before, after] = [sums(older), sums(newer)];
    expect(first.files).to.equal(before.size);
    expect(second.files).to.equal(after.size);
    expect(first.newContents).to.equal(new Set(before.values()).size);

    const { findings, summary } = await house.diff('Flags', '7.0.0', '7.5.0');
    const expected = compare(before, after);
    expect({ ...summary, changed: summary.changed + summary.repacked }).to.include(expected);
    expect(
      summary.added + summary.changed + summary.repacked + summary.moved + summary.copied + summary.unchanged,
    ).to.equal(after.size);
    expect(findings.map(({ path }) => path)).to.deep.equal(findings.map(({ path }) => path).sort());
    for (const { status, path } of findings) {
      expect(after.has(path), path).to.equal(status !== 'removed');
    }
  });

  it('give the opposite when asked the other way round', async () => {
    const there = (await house.diff('Flags', '7.0.0', '7.5.0')).summary;
    const back = (await house.diff('Flags', '7.5.0', '7.0.0')).summary;
    expect(back).to.include({
      added: there.removed,
      removed: there.added,
      changed: there.changed,
      unchanged: there.unchanged,
    });
  });

  it('are repacked where another parser reads the same drawing, and changed where it does not', async () => {
    const { findings } = await house.diff('Flags', '7.0.0', '7.5.0');
    const drawings = findings.filter(
      ({ status, path }) => path.endsWith('.svg') && (status === 'repacked' || status === 'changed'),
    );
    expect(drawings.length).to.be.above(300);
    const browser = await openBrowser();
    try {
      const { page } = await openPage(browser);
      for (const { status, path } of drawings) {
        const texts = [older, newer].map((root) => readFileSync(join(root, path), 'utf8'));
        const [before, after] = await page.evaluate(readDrawings, texts);
        expect(before === after, path).to.equal(status === 'repacked');
      }
    } finally {
      await browser.close();
    }
  }).timeout(120_000);

  it('are found by a part of a name, as JSON and as lines', async () => {
    const { output } = await house.run(
      'search',
      '--title',
      'Flags',
      '--build',
      '7.5.0',
      'FLAGS 4x3 ch.svg',
      '--json',
    );
    const hits = output
      .trim()
      .split('\n')
      .map((line) => JSON.parse(line) as Record<string, unknown>);
    const expected = [...sums(newer).keys()].filter((path) =>
      ['flags', '4x3', 'ch.svg'].every((word) => path.toLowerCase().includes(word)),
    );
    expect(hits.map(({ path }) => path)).to.deep.equal(expected.sort());
    expect(hits[0]).to.have.all.keys('path', 'build', 'kind', 'size', 'hash');
    expect(hits[0]).to.include({ build: '7.5.0', kind: 'picture' });
  });
});

/** Drawings as Chromium's parser reads them: elements in order, their attributes by name, no remarks and no blanks. */
function readDrawings(texts: readonly string[]): string[] {
  return texts.map((text) => {
    const drawing = new DOMParser().parseFromString(text, 'image/svg+xml');
    const walker = drawing.createTreeWalker(drawing, NodeFilter.SHOW_ELEMENT | NodeFilter.SHOW_TEXT);
    const said: string[] = [];
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      let depth = 0;
      for (let above = node.parentNode; above; above = above.parentNode) depth++;
      const words =
        node instanceof Element
          ? [node.nodeName, ...[...node.attributes].map(({ name, value }) => `${name}=${value}`).sort()]
          : [(node.textContent ?? '').trim()];
      if (words.join('') !== '') said.push(`${depth} ${words.join(' ')}`);
    }
    return said.join('\n');
  });
}

function sums(folder: string): Map<string, string> {
  const listing = execFileSync('sh', ['-c', 'find . -type f -print0 | xargs -0 sha256sum'], {
    cwd: folder,
    encoding: 'utf8',
  });
  return new Map(
    listing
      .trim()
      .split('\n')
      .map((line) => [line.slice(66).replace(/^\.\//, ''), line.slice(0, 64)]),
  );
}

function compare(before: Map<string, string>, after: Map<string, string>) {
  const gone = [...before].filter(([path]) => !after.has(path));
  const fresh = [...after].filter(([path]) => !before.has(path));
  const changed = [...after].filter(([path, sum]) => before.has(path) && before.get(path) !== sum).length;
  const left = new Map<string, number>();
  for (const [, sum] of gone) left.set(sum, (left.get(sum) ?? 0) + 1);
  let moved = 0;
  for (const [, sum] of fresh) {
    if ((left.get(sum) ?? 0) === 0) continue;
    left.set(sum, (left.get(sum) ?? 0) - 1);
    moved++;
  }
  return { changed, moved, removed: gone.length - moved };
}
