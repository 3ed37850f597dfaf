import { expect } from 'chai';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { seeded } from '../../demo/seeded.ts';
import { sheetOf } from '../../tests/support/by-sheet.ts';
import type { Limits } from './language/budget.ts';
import { SheetError } from './language/sheet-error.ts';
import { openSheet } from './open-sheet.ts';
import { trySheet } from './try-sheet.ts';

const folder = join(import.meta.dirname, '..', '..', 'docs', 'format-sheets');
const texts = readdirSync(folder)
  .filter((name) => name.endsWith('.yaml'))
  .map((name) => readFileSync(join(folder, name), 'utf8'));
const limits: Limits = { steps: 500_000, bytes: 32 * 1024 * 1024, depth: 32, milliseconds: 1000 };

/** A file that fits a sheet: small, and of all that the sheet has. */
function samples(): Uint8Array[] {
  const stl = Buffer.alloc(84 + 50 * 3);
  stl.writeUInt32LE(3, 80);
  const bmp = Buffer.alloc(14 + 40 + 16 * 4 + 8 * 4);
  bmp.write('BM');
  bmp.writeUInt32LE(54 + 64, 10);
  bmp.writeUInt32LE(40, 14);
  bmp.writeInt32LE(8, 18);
  bmp.writeInt32LE(4, 22);
  bmp.writeUInt16LE(1, 26);
  bmp.writeUInt16LE(4, 28);
  const wav = Buffer.alloc(44 + 64);
  wav.write('RIFF');
  wav.write('WAVEfmt ', 8);
  wav.writeUInt32LE(16, 16);
  wav.writeUInt16LE(1, 20);
  wav.writeUInt16LE(2, 22);
  wav.writeUInt32LE(8000, 24);
  wav.writeUInt16LE(4, 32);
  wav.writeUInt16LE(16, 34);
  wav.write('data', 36);
  wav.writeUInt32LE(64, 40);
  const tga = Buffer.concat([
    Buffer.from([0, 0, 10, 0, 0, 0, 0, 0, 0, 0, 0, 0, 4, 0, 2, 0, 24, 0]),
    Buffer.from([0x83, 1, 2, 3, 3, 1, 2, 3, 4, 5, 6, 7, 8, 9, 1, 2, 3]),
  ]);
  const obj = Buffer.from('mtllib a.mtl\nv 0 0 0\nv 1 0 0\nv 0 1 0\nvn 0 0 1\nf 1//1 2//1 3//1\n');
  return [stl, bmp, wav, tga, obj];
}

const own = `sheet: Own
language: 1
files: '*'
versions: ['1', '2']
types:
  entry: { name: string(u8), at: u32, size: u32, body: { type: bytes(size), at: at, if: at < fileSize } }
  node: { count: u8, children: 'node[count]' }
root:
  mark: { is: OW }
  count: u16
  entries: entry[count]
  tree: { type: node, since: '2' }
  packed: { type: bytes, unpack: [zlib], as: node }
result:
  entries: { each: entries, name: name, data: body }
`;

/** Many times as many of both are tried where somebody asks for it: `WORVEL_DAMAGE_TIMES=10`. */
const times = Number(process.env.WORVEL_DAMAGE_TIMES ?? 1);

describe('Sheets and files that are damaged', function () {
  this.timeout(240_000 * times);

  const random = seeded(20_261_129);
  const below = (most: number): number => Math.floor(random() * most);
  const damaged = (bytes: Uint8Array): Uint8Array => {
    const copy = Uint8Array.from(bytes);
    for (let left = 1 + below(6); left > 0 && copy.length > 0; left--) {
      const at = below(copy.length);
      copy[at] = [0, 255, 127, 128, below(256)][below(5)] ?? 0;
    }
    return random() < 0.3 ? copy.subarray(0, below(copy.length + 1)) : copy;
  };
  const opened = new Map<string, ReturnType<typeof openSheet>>();
  const opening = (text: string): ReturnType<typeof openSheet> => {
    const found = opened.get(text) ?? openSheet(text);
    if ([...texts, own].includes(text)) opened.set(text, found);
    return found;
  };
  const tryAll = async (text: string, bytes: Uint8Array): Promise<'fits' | 'does not fit' | 'no sheet'> => {
    const sheet = opening(text);
    if ('problems' in sheet) {
      expect(sheet.problems.length).to.be.above(0);
      for (const { line, message } of sheet.problems) {
        expect(line).to.be.within(1, text.split('\n').length + 1);
        expect(message).not.to.equal('');
      }
      return 'no sheet';
    }
    const begin = Date.now();
    const file = { bytes, path: 'a/b.bin', resolve: () => Promise.resolve(null) };
    const { version, tried } = await trySheet(sheet.sheet, file, null, limits);
    // One version has a second; what the machine does meanwhile counts too.
    expect(Date.now() - begin).to.be.below(limits.milliseconds * tried.length * 5);
    return version === null ? 'does not fit' : 'fits';
  };

  it('come to an error that says where, or to a result: never to anything else', async () => {
    const kinds = { fits: 0, 'does not fit': 0, 'no sheet': 0 };
    const owned = Buffer.concat([
      Buffer.from(
        'OW\x02\x00\x01a\x00\x00\x00\x00\x04\x00\x00\x00\x01b\x08\x00\x00\x00\x02\x00\x00\x00\x01\x00',
        'latin1',
      ),
      deflateSync(Buffer.from([2, 0, 0])),
    ]);
    const pairs = [...texts, own].flatMap((text) => [...samples(), owned].map((bytes) => ({ text, bytes })));
    for (let round = 0; round < 4000 * times; round++) {
      const { text, bytes } = pairs[below(pairs.length)] ?? { text: own, bytes: owned };
      kinds[await tryAll(text, damaged(bytes))]++;
    }
    expect(kinds.fits).to.be.above(100);
    expect(kinds['does not fit']).to.be.above(500);
  });

  it('with changed sheets too', async () => {
    const words = [
      'count',
      'fileSize',
      '-1',
      '1e9',
      "'x'",
      'u64',
      'end',
      '[',
      '}',
      '0x',
      'parent',
      'index',
      'null',
      'here * 2',
    ];
    const files = samples();
    const kinds = { fits: 0, 'does not fit': 0, 'no sheet': 0 };
    for (let round = 0; round < 500 * times; round++) {
      const parts = ([...texts, own][below(texts.length + 1)] ?? own).split(/(\b)/);
      for (let left = 1 + below(3); left > 0; left--)
        parts[below(parts.length)] = words[below(words.length)] ?? '';
      kinds[await tryAll(parts.join(''), files[below(files.length)] ?? new Uint8Array(0))]++;
    }
    expect(kinds['no sheet']).to.be.above(50);
    expect(kinds['does not fit'] + kinds.fits).to.be.above(25);
  });

  it('name a byte within the file', async () => {
    const sheet = sheetOf(own);
    for (const length of [0, 1, 3, 7]) {
      const bytes = Buffer.from('OW\x02\x00\x01a\x00\x00', 'latin1').subarray(0, length);
      const { tried } = await trySheet(sheet, { bytes, path: 'x', resolve: () => Promise.resolve(null) });
      for (const { error } of tried) expect(error?.at ?? -1).to.be.within(0, length);
    }
    expect(new SheetError('why', 3, 'a')).to.include({ message: 'why', at: 3, where: 'a' });
  });
});
