import { expect } from 'chai';
import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { openSheet } from '../open-sheet.ts';
import { entropyOf, packedOf, stringsOf, strideOf } from './body.ts';
import { pixelGuesses, sampleGuesses } from './images.ts';
import { numbersOf } from './numbers.ts';
import { fieldsOf, proposalsFor } from './propose.ts';

const sample = (bytes: Uint8Array) => ({ bytes, size: bytes.length });

/** Rows of a mesh: position, unit normal, UV. */
function vertices(count: number): Buffer {
  const bytes = Buffer.alloc(count * 32);
  for (let row = 0; row < count; row++) {
    const [u, v] = [(row % 17) / 16, ((row * 7) % 23) / 22];
    const angle = u * 6.28;
    [40 * Math.cos(angle), v * 90, 40 * Math.sin(angle), Math.cos(angle), 0, Math.sin(angle), u, v].forEach(
      (value, part) => bytes.writeFloatLE(value, row * 32 + part * 4),
    );
  }
  return bytes;
}

describe('What the bytes of a list look like', () => {
  it('is told by the numbers in it: positions, unit normals, UVs, quaternions', () => {
    const list = { at: 0, count: 200, stride: 32, isLittle: true };
    const found = numbersOf(sample(vertices(200)), list, []);
    expect(found.map(({ at, field }) => `${at} ${field?.name} ${field?.type}`)).to.deep.equal([
      ...['0 position f32[3]', '12 normal f32[3]', '24 uv f32[2]'],
    ]);
    const turns = Buffer.alloc(100 * 16);
    for (let row = 0; row < 100; row++)
      [Math.sin(row) * 0.6, Math.cos(row) * 0.6, 0.64, 0.48].forEach((value, part) =>
        turns.writeFloatLE(value, row * 16 + part * 4),
      );
    const [turn] = numbersOf(sample(turns), { at: 0, count: 100, stride: 16, isLittle: true }, []);
    expect(turn?.field).to.deep.equal({ name: 'rotation', type: 'f32[4]' });
  });

  it('is indices where the largest is just below how many there are', () => {
    const bytes = Buffer.alloc(600);
    for (let number = 0; number < 300; number++) bytes.writeUInt16LE((number * 7) % 120, number * 2);
    const [found] = numbersOf(sample(bytes), { at: 0, count: 100, stride: 6, isLittle: true }, [90, 120]);
    expect(found).to.deep.include({ kind: 'indices', field: { name: 'indices', type: 'u16[3]' } });
    expect(found?.says).to.include('119').and.include('of 120 things');
  });

  it('repeats after as many bytes as a row has', () => {
    const [found] = strideOf(sample(vertices(400)), 0);
    expect(found?.stride).to.equal(32);
    expect(strideOf(sample(randomBytes(20_000)), 0)).to.deep.equal([]);
  });
});

describe('Stretches of unknown bytes', () => {
  it('are packed or locked where every byte is as likely as any other', () => {
    // Worked examples: two equally likely values have one bit, 256 of them eight (Shannon 1948).
    expect(entropyOf(Uint8Array.from([0, 1, 0, 1]))).to.equal(1);
    expect(entropyOf(Uint8Array.from({ length: 256 }, (_, at) => at))).to.equal(8);
    const text = readFileSync('docs/formats.md');
    const more = Buffer.concat([text, readFileSync('package-lock.json')]);
    const packed = deflateSync(more);
    expect(packedOf(sample(text))).to.deep.equal([]);
    expect(packedOf(sample(packed))).to.have.length(1);
    expect(packedOf(sample(packed))[0]?.bytes).to.be.greaterThan(packed.length / 2);
  });

  it('are texts where several follow each other', () => {
    const bytes = Buffer.concat([
      Buffer.from([1, 0, 2, 255]),
      Buffer.from('pier.tex\0mast.tex\0heron.tex\0reed.tex\0'),
      Buffer.from([9, 9]),
    ]);
    const [found] = stringsOf(sample(bytes));
    expect([found?.at, found?.bytes]).to.deep.equal([4, 37]);
    expect(found?.says).to.include('4 texts');
  });

  it('are pixels of the width and the format in which they are smooth', () => {
    const [width, height] = [96, 64];
    const rgb = Buffer.alloc(width * height * 3);
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++)
        rgb.set(
          [128 + 100 * Math.sin(x / 9), 128 + 90 * Math.cos(y / 7), (x * 2 + y) & 255],
          (y * width + x) * 3,
        );
    const [best] = pixelGuesses(rgb);
    expect(best).to.deep.include({ width, height, format: 'rgb8' });
  });

  it('are samples of the width and order in which they are smooth', () => {
    const wave = Buffer.alloc(20_000);
    for (let at = 0; at < wave.length; at += 2) wave.writeInt16BE(Math.round(9000 * Math.sin(at / 40)), at);
    const [best] = sampleGuesses(wave);
    expect(best).to.deep.include({ bits: 16, isLittle: false, channels: 1, isSigned: true });
  });
});

describe('Proposals', () => {
  it('become fields of a sheet that can be used at once', () => {
    const files = [40, 55, 70, 90, 13].map((count) => {
      const head = Buffer.from('MESH\0\0\0\0');
      head.writeUInt32LE(count, 4);
      return Buffer.concat([head, vertices(count)]);
    });
    const root = fieldsOf(proposalsFor(files.map(sample)));
    expect(root).to.include("mark: { is: 'MESH' }").and.include('count: u32');
    expect(openSheet(`sheet: A\nlanguage: 1\nfiles: '*'\nroot:\n${root}\n`)).to.have.property('sheet');
  });

  it('are the width and height of pictures, whose rows may be filled up', () => {
    const files = [
      ...[
        [20, 31],
        [33, 12],
        [50, 50],
        [7, 90],
        [64, 9],
      ],
    ].map(([width = 0, height = 0]) => {
      const head = Buffer.alloc(12);
      head.writeUInt16BE(width, 4);
      head.writeUInt16BE(height, 6);
      return Buffer.concat([head, randomBytes(Math.ceil((width * 3) / 4) * 4 * height)]);
    });
    const found = proposalsFor(files.map(sample)).filter(({ kind }) => kind === 'pixels');
    expect(found.map(({ at, field }) => `${at} ${field?.name} ${field?.type}`)).to.deep.equal([
      ...['4 width u16', '6 height u16'],
    ]);
    expect(found[0]?.says).to.include('24 bits a pixel, with rows filled up');
  });

  it('are none for nothing, for one byte, for files that are all the same', () => {
    expect(proposalsFor([])).to.deep.equal([]);
    expect(proposalsFor([sample(Buffer.from([7]))])).to.deep.equal([]);
    const same = sample(Buffer.from('the same in all files'));
    expect(proposalsFor([same, same, same])).to.deep.equal([]);
  });
});
