import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { deflateRawSync, deflateSync, gzipSync } from 'node:zlib';
import { fieldsOf, sheetWith } from '../../../tests/support/by-sheet.ts';
import { failureOf } from '../../../tests/support/failure.ts';
import { seeded } from '../../../demo/seeded.ts';

const unpacked = async (step: string, bytes: Uint8Array): Promise<Buffer> => {
  const sheet = sheetWith(`body: { type: bytes, unpack: [${step}] }`);
  return Buffer.from((await fieldsOf(sheet, bytes)).body as Uint8Array);
};

/** Bytes with repetitions near and far, and without. */
const random = seeded(13);
const sample = Buffer.from(
  Array.from({ length: 60_000 }, (_, at) =>
    at % 1000 < 300 ? 65 + (at % 7) : at % 1000 < 600 ? Math.floor(random() * 256) : (at >> 5) & 255,
  ),
);
const program = (name: string, ...args: string[]): Buffer => {
  const { stdout, status } = spawnSync(name, args, { input: sample, maxBuffer: 1 << 26 });
  expect(status, `needs ${name}`).to.equal(0);
  return stdout;
};

describe('Packings', () => {
  it('are what zlib packs (RFC 1950 to 1952)', async () => {
    expect(await unpacked('zlib', deflateSync(sample))).to.deep.equal(sample);
    expect(await unpacked('deflate', deflateRawSync(sample))).to.deep.equal(sample);
    expect(await unpacked('gzip', gzipSync(sample))).to.deep.equal(sample);
    expect(await unpacked('{ zlib: { size: 60000 } }', deflateSync(sample))).to.deep.equal(sample);
  });

  it('are what the programs of Debian pack: zstd, lz4, gzip', async () => {
    expect(await unpacked('{ zstd: { size: 60000 } }', program('zstd', '-q', '-c'))).to.deep.equal(sample);
    for (const level of ['-1', '-9'])
      expect(await unpacked('lz4Frame', program('lz4', '-q', level, '-c'))).to.deep.equal(sample);
    // Blocks that reach into the one before, and their check sums.
    expect(await unpacked('lz4Frame', program('lz4', '-q', '-B4', '-BD', '-BX', '-c'))).to.deep.equal(sample);
    expect(await unpacked('gzip', program('gzip', '-9', '-c'))).to.deep.equal(sample);
  });

  it('unpack the block that an LZ4 frame holds, by itself', async () => {
    const frame = program('lz4', '-q', '-B7', '--no-frame-crc', '-c');
    const size = frame.readUInt32LE(7);
    expect(await unpacked('{ lz4: { size: 60000 } }', frame.subarray(11, 11 + size))).to.deep.equal(sample);
  });

  it('say of damaged bytes that they are damaged', async () => {
    const packed = deflateSync(sample);
    const damaged = Buffer.from(packed);
    damaged[900] = (damaged[900] ?? 0) ^ 255;
    expect((await failureOf(unpacked('zlib', damaged))).message).to.match(/^zlib: the packed bytes are /);
    expect((await failureOf(unpacked('zlib', packed.subarray(0, 900)))).message).to.equal(
      'zlib: the packed bytes are cut short',
    );
    expect((await failureOf(unpacked('{ zlib: { size: 59999 } }', packed))).message).to.include(
      'more comes out than the 59,999 bytes that the sheet promises',
    );
    expect((await failureOf(unpacked('{ zlib: { size: 60001 } }', packed))).message).to.include(
      '60,000 bytes come out',
    );
    expect((await failureOf(unpacked('{ lz4: {} }', Buffer.from([0x10, 65, 9, 9])))).message).to.include(
      'lz4: a copy from',
    );
    expect((await failureOf(unpacked('{ zstd: { size: 10 } }', Buffer.from('no frame')))).message).to.include(
      'zstd: ',
    );
  });

  it('unpack run lengths as their formats have them', async () => {
    // The worked example of Apple’s Technical Note TN1023 for PackBits.
    const packed = Buffer.from('fe aa 02 80 00 2a fd aa 03 80 00 2a 22 f7 aa'.replaceAll(' ', ''), 'hex');
    const plain = 'aaaaaa80002aaaaaaaaa80002a22aaaaaaaaaaaaaaaaaaaa';
    expect((await unpacked('runs', packed)).toString('hex')).to.equal(plain);
    expect(
      (
        await unpacked('{ runs: { coding: "\'tga\'", unit: 3 } }', Buffer.from('82aabbcc00112233', 'hex'))
      ).toString('hex'),
    ).to.equal('aabbccaabbccaabbcc112233');
    expect(
      (await unpacked('{ runs: { coding: "\'pcx\'" } }', Buffer.from('c341c1ff42', 'hex'))).toString('hex'),
    ).to.equal('414141ff42');
    expect(
      (
        await unpacked('{ runs: { coding: "\'escape\'", escape: 0x90 } }', Buffer.from('41900342', 'hex'))
      ).toString('hex'),
    ).to.equal('41424242');
    expect(
      (await unpacked('{ runs: { coding: "\'zeros\'" } }', Buffer.from('410003', 'hex'))).toString('hex'),
    ).to.equal('41000000');
    expect(
      (await unpacked('{ runs: { coding: "\'pairs\'" } }', Buffer.from('02410142', 'hex'))).toString('hex'),
    ).to.equal('414142');
  });

  it('unpack LZSS of every layout that packs the same text', async () => {
    // “abcabcabc”, three letters and a copy of six from three back.
    const letters = '616263';
    const at = (4096 - 18).toString(16);
    expect(at).to.equal('fee');
    // Flags 0b0111, low first; place 0xFEE as EE F3 with length 6 - 3 in the low bits.
    expect((await unpacked('lzss', Buffer.from(`07${letters}eef3`, 'hex'))).toString()).to.equal('abcabcabc');
    // Distance 3, length in the high bits, one number, high flags first, letters with flag 0.
    const step =
      '{ lzss: { place: "\'distance\'", flagOrder: "\'high\'", literal: 0, layout: "\'big-high\'", size: 9 } }';
    expect((await unpacked(step, Buffer.from(`10${letters}3003`, 'hex'))).toString()).to.equal('abcabcabc');
    const little =
      '{ lzss: { place: "\'distance\'", layout: "\'little\'", lengthBits: 5, window: 2048, size: 9 } }';
    expect((await unpacked(little, Buffer.from(`07${letters}6300`, 'hex'))).toString()).to.equal('abcabcabc');
  });

  it('undo what rearranges bytes', async () => {
    const planes = Buffer.from(
      [0, 1, 2].flatMap((plane) => [...sample.subarray(0, 300)].filter((_, at) => at % 3 === plane)),
    );
    expect(await unpacked('{ planes: { bytes: 3 } }', planes)).to.deep.equal(sample.subarray(0, 300));
    expect(
      await unpacked('{ swap: { bytes: 4 } }', Buffer.from(sample.subarray(0, 400)).swap32()),
    ).to.deep.equal(sample.subarray(0, 400));
    const key = Buffer.from('lantern');
    const locked = sample.map((byte, at) => byte ^ (key[at % key.length] ?? 0));
    expect(await unpacked('{ xor: { key: "\'lantern\'" } }', locked)).to.deep.equal(sample);
    expect(await unpacked('{ xor: { key: [1, 2] } }', Buffer.from([3, 3]))).to.deep.equal(
      Buffer.from([2, 1]),
    );
    const steps = sample.map((byte, at) => byte - (sample[at - 2] ?? 0));
    expect(await unpacked('{ delta: { stride: 2 } }', steps)).to.deep.equal(sample);
    // Two planes: 0b10100000 and 0b11000000.
    expect(
      [...(await unpacked('{ bitPlanes: { planes: 2 } }', Buffer.from([0xa0, 0xc0])))].slice(0, 4),
    ).to.deep.equal([3, 2, 1, 0]);
  });

  it('go one after the other, in any order', async () => {
    const key = 0x5a;
    const packed = deflateSync(sample.map((byte) => byte ^ key));
    expect(await unpacked(`zlib, { xor: { key: ${key} } }`, packed)).to.deep.equal(sample);
  });

  it('never give more than the reading may take', async () => {
    const bomb = deflateSync(Buffer.alloc(50_000_000));
    const sheet = sheetWith('body: { type: bytes, unpack: [zlib] }');
    const limits = { steps: 1e6, bytes: 8_000_000, depth: 16, milliseconds: 5000 };
    expect((await failureOf(fieldsOf(sheet, bomb, { limits }))).message).to.match(
      /takes more memory than 8 MiB/,
    );
  });

  it('that nobody knows, and parameters that they lack, are said at once', () => {
    expect(() => sheetWith('body: { type: bytes, unpack: [zip] }')).to.throw('there is no packing zip');
    expect(() => sheetWith('body: { type: bytes, unpack: [{ zlib: { window: 9 } }] }')).to.throw(
      'zlib has no window',
    );
  });
});
