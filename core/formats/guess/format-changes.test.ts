import { expect } from 'chai';
import { formatChanges, type SamplePair } from './format-changes.ts';

/** Numbers that look like a game’s own, the same each time. */
function randoms(seed: number): () => number {
  let state = seed;
  return () => (state = (Math.imul(state, 1_103_515_245) + 12_345) >>> 0) / 2 ** 32;
}

interface Layout {
  header: readonly string[];
  record: readonly string[];
}

/** A file with these fields, of 4 bytes each: those of one name have one value, whatever lies around them. */
function made({ header, record }: Layout, count: number, values: ReadonlyMap<string, number>): Uint8Array {
  const random = (name: string): number => values.get(name) ?? 0;
  const numbers = header.map((name) => (name === 'count' ? count : random(name)));
  for (let at = 0; at < count; at++) for (const name of record) numbers.push(random(`${name} ${at}`));
  return new Uint8Array(Uint32Array.from(numbers).buffer);
}

function pairsOf(old: Layout, now: Layout, files = 4): SamplePair[] {
  return Array.from({ length: files }, (_, file) => {
    const random = randoms(file + 1);
    const count = 9 + file * 5;
    const values = new Map<string, number>();
    for (const name of [...new Set([...old.header, ...now.header])])
      values.set(name, name === 'mark' ? 0x4d42434d : Math.floor(random() * 2 ** 32));
    for (let at = 0; at < count; at++)
      for (const name of [...new Set([...old.record, ...now.record])])
        values.set(`${name} ${at}`, Math.floor(random() * 2 ** 32));
    const sample = (layout: Layout) => {
      const bytes = made(layout, count, values);
      return { bytes, size: bytes.length };
    };
    return { old: sample(old), now: sample(now) };
  });
}

describe('How a format changed between two builds', () => {
  const header = ['mark', 'version', 'count', 'scale', 'flags'];
  const record = ['x', 'y', 'z', 'u'];

  it('is nothing where the files have other values alone', () => {
    expect(formatChanges(pairsOf({ header, record }, { header, record }))).to.deep.equal([]);
  });

  it('is a field that came into the header, and where', () => {
    const now = { header: ['mark', 'version', 'count', 'scale', 'radius', 'flags'], record };
    const changes = formatChanges(pairsOf({ header, record }, now));
    expect(changes).to.deep.equal([
      { kind: 'came', at: 16, bytes: 4, says: '4 bytes came in at 0x10 in all 4 files' },
    ]);
  });

  it('is a field that went', () => {
    const now = { header: ['mark', 'version', 'count', 'flags'], record };
    expect(formatChanges(pairsOf({ header, record }, now))).to.deep.equal([
      { kind: 'gone', at: 12, bytes: 4, says: '4 bytes at 0xC went in all 4 files' },
    ]);
  });

  it('is two fields at two places', () => {
    const now = {
      header: ['mark', 'version', 'units', 'axes', 'count', 'scale', 'flags', 'owner'],
      record,
    };
    const changes = formatChanges(pairsOf({ header, record }, now));
    expect(changes.map(({ kind, at, bytes }) => [kind, at, bytes])).to.deep.equal([
      ['came', 8, 8],
      ['came', 28, 4],
    ]);
  });

  it('is records that have a field more, with the count that counts them', () => {
    const now = { header, record: ['x', 'y', 'z', 'w', 'u'] };
    const changes = formatChanges(pairsOf({ header, record }, now));
    expect(changes.map(({ says }) => says)).to.include('4 bytes more in each record of 20, from 0x20 on');
    expect(changes.map(({ says }) => says)).to.include(
      'the number at 0x8 counts records of 20 bytes now, of 16 before',
    );
    expect(changes).to.have.length(2);
  });

  it('is another number that all files begin with', () => {
    const pairs = pairsOf({ header, record }, { header, record });
    for (const { old, now } of pairs) [old.bytes[4], now.bytes[4]] = [3, 4];
    expect(formatChanges(pairs)).to.deep.equal([
      { kind: 'constant', at: 4, bytes: 1, says: 'was 0x03 in all 4 files, and is 0x04' },
    ]);
  });

  it('is found in formats whose fields are small numbers, at the field that came in or a neighbour of the same bytes', () => {
    const random = randoms(2026);
    let [found, wrong] = [0, 0];
    for (let format = 0; format < 100; format++) {
      const fields = 4 + Math.floor(random() * 8);
      const place = 1 + Math.floor(random() * (fields - 1));
      const size = [1, 2, 4, 8][format % 4] ?? 4;
      const pairs = Array.from({ length: 5 }, (): SamplePair => {
        const head = Array.from({ length: fields }, () => Math.floor(random() * 4000));
        const body = Uint8Array.from({ length: 200 + Math.floor(random() * 400) }, () => random() * 256);
        const old = Buffer.concat([Buffer.from(Uint32Array.from(head).buffer), body]);
        const fresh = Buffer.from(Array.from({ length: size }, () => 1 + Math.floor(random() * 255)));
        const now = Buffer.concat([old.subarray(0, place * 4), fresh, old.subarray(place * 4)]);
        return { old: { bytes: old, size: old.length }, now: { bytes: now, size: now.length } };
      });
      const changes = formatChanges(pairs).filter(({ kind }) => kind === 'came' || kind === 'gone');
      const [only] = changes;
      // Small numbers end with bytes of 0, which agree wherever they stand.
      const isRight = changes.length === 1 && only?.bytes === size && Math.abs(only.at - place * 4) <= 2;
      if (isRight) found++;
      else if (changes.length > 0) wrong++;
    }
    expect(found, `${wrong} wrong`).to.be.at.least(95);
    expect(wrong).to.be.at.most(3);
  });

  it('is not told of files that have nothing in common', () => {
    const random = randoms(99);
    const noise = (): Uint8Array => Uint8Array.from({ length: 900 }, () => random() * 256);
    const pairs = Array.from({ length: 3 }, () => ({
      old: { bytes: noise(), size: 900 },
      now: { bytes: noise(), size: 900 },
    }));
    expect(formatChanges(pairs)).to.deep.equal([]);
  });
});
