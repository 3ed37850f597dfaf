import { expect } from 'chai';
import { execFileSync } from 'node:child_process';
import { readFileSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { inflateSync } from 'node:zlib';
import type { FontFacts } from '../../../contract/facts.ts';
import { fingerprintOf, readBytes, readFile } from '../../../tests/support/read.ts';

/** The font that a WOFF 1.0 file packs (W3C WOFF File Format 1.0, sections 3 to 5): its tables, each inflated. */
function unpacked(woff: Buffer): Buffer {
  const count = woff.readUInt16BE(12);
  const head = Buffer.alloc(12 + count * 16);
  woff.copy(head, 0, 4, 8);
  head.writeUInt16BE(count, 4);
  const tables: Buffer[] = [];
  let at = head.length;
  for (let table = 0; table < count; table++) {
    const entry = 44 + table * 20;
    const [offset, packed, size] = [4, 8, 12].map((place) => woff.readUInt32BE(entry + place)) as [
      number,
      number,
      number,
    ];
    const bytes = woff.subarray(offset, offset + packed);
    const plain = packed < size ? inflateSync(bytes) : bytes;
    woff.copy(head, 12 + table * 16, entry, entry + 4);
    woff.copy(head, 16 + table * 16, entry + 16, entry + 20);
    head.writeUInt32BE(at, 20 + table * 16);
    head.writeUInt32BE(size, 24 + table * 16);
    tables.push(plain, Buffer.alloc((4 - (size % 4)) % 4));
    at += size + ((4 - (size % 4)) % 4);
  }
  return Buffer.concat([head, ...tables]);
}

/** Against fontconfig's own scanner, on the open fonts that the interface is set in. */
describe('readFont', () => {
  const folder = 'node_modules/@fontsource/literata/files';
  const names = readdirSync(folder).filter((name) =>
    /-(latin|cyrillic|greek)-400-normal\.woff2?$/.test(name),
  );

  for (const name of names)
    it(`${name}: names and characters as fontconfig has them`, async () => {
      const path = join(folder, name);
      const scan = (field: string): string =>
        execFileSync('fc-scan', ['--format', `%{${field}}`, path], { encoding: 'utf8' });
      const { facts, preview } = await readFile(path);
      const font = facts as FontFacts;
      expect(scan('family').split(',')).to.include(font.family);
      const ranges = scan('charset')
        .split(' ')
        .filter((range) => range !== '');
      const characters = ranges.reduce((sum, range) => {
        const [from = '0', to = from] = range.split('-');
        return sum + Number.parseInt(to, 16) - Number.parseInt(from, 16) + 1;
      }, 0);
      // Fontconfig leaves out a few that stand for nothing.
      expect(Math.abs(font.characters - characters)).to.be.at.most(4);
      expect(font.glyphs).to.be.greaterThan(20);
      expect(preview?.rgba.some((value) => value > 0)).to.equal(true);
    });

  it('has one fingerprint for WOFF and for the TrueType font in it, and another for another font', async () => {
    const woff = readFileSync(join(folder, 'literata-latin-400-normal.woff'));
    const print = fingerprintOf(await readBytes(woff, 'a.woff'));
    expect(print)
      .to.be.a('string')
      .and.to.equal(fingerprintOf(await readBytes(unpacked(woff), 'a.ttf')));
    expect(print).not.to.equal(fingerprintOf(await readFile(join(folder, 'literata-latin-700-normal.woff'))));
  });

  it('says that a font is cut short', async () => {
    const bytes = readFileSync(join(folder, names[0] ?? ''));
    await readBytes(bytes.subarray(0, 900), 'x.woff2').then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.match(/^this font cannot be read: /),
    );
  });
});
