import { expect } from 'chai';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { FloatType } from 'three';
import { EXRLoader } from 'three/examples/jsm/loaders/EXRLoader.js';
import { seeded } from '../../../../demo/seeded.ts';
import { ddsFile, type DdsSaid } from '../../../../tests/support/dds.ts';
import { run } from '../../../../tests/support/leaves.ts';
import { readDds } from '../read/dds.ts';

const width = 256;
const height = 256;

/**
 * Against OpenImageIO (openimageio-tools) and Pillow (python3-pil) from Debian, over blocks of random bits: every mode
 * and every partition comes up hundreds of times. The two agree with the Khronos Data Format Specification 1.3; where it
 * leaves rounding open (BC1 to BC5), they differ from each other by one as well.
 */
describe('Block-compressed textures', () => {
  const folder = mkdtempSync(join(tmpdir(), 'worvel-blocks-'));
  const file = join(folder, 'blocks.dds');
  after(() => rmSync(folder, { recursive: true }));

  const randomBlocks = (bytesPerBlock: number): Buffer => {
    const random = seeded(bytesPerBlock);
    return Buffer.from(
      Array.from({ length: (width / 4) * (height / 4) * bytesPerBlock }, () => Math.floor(random() * 256)),
    );
  };
  const write = (format: DdsSaid['format'], data: Uint8Array, code?: string): Buffer => {
    const bytes = ddsFile({ width, height, format, data }, code);
    writeFileSync(file, bytes);
    return bytes;
  };
  /** Channels as OpenImageIO decodes them, 8 bits each. */
  const openImageIo = (channels: string): Buffer => {
    const out = join(folder, 'out.ppm');
    run(
      'oiiotool',
      ['-iconfig', 'oiio:UnassociatedAlpha', '1', file, '--ch', channels, '-d', 'uint8', '-o', out],
      folder,
    );
    const bytes = readFileSync(out);
    const values = width * height * (channels.includes(',') ? 3 : 1);
    return bytes.subarray(bytes.length - values);
  };
  const pillow = (): { mode: string; bytes: Buffer } => {
    const script = `import sys\nfrom PIL import Image\nimage = Image.open(${JSON.stringify(file)})\nsys.stderr.write(image.mode)\nsys.stdout.buffer.write(image.tobytes())`;
    const { status, stdout, stderr } = spawnSync('/usr/bin/python3', ['-c', script], { maxBuffer: 2 ** 26 });
    if (status !== 0) throw new Error(stderr.toString('utf8'));
    return { mode: stderr.toString('utf8'), bytes: stdout };
  };
  const decode = async (bytes: Uint8Array): Promise<ArrayLike<number>> => (await readDds(bytes).image()).data;
  const greatest = (ours: ArrayLike<number>, theirs: Uint8Array, channels: number): number => {
    let most = 0;
    for (let pixel = 0; pixel < width * height; pixel++)
      for (let channel = 0; channel < channels; channel++)
        most = Math.max(
          most,
          Math.abs((ours[pixel * 4 + channel] ?? 0) - (theirs[pixel * channels + channel] ?? 0)),
        );
    return most;
  };

  for (const [format, bytesPerBlock, code] of [
    ['bc1', 8, 'DXT1'],
    ['bc2', 16, 'DXT3'],
    ['bc3', 16, 'DXT5'],
  ] as const) {
    it(`${format}: within 1 of OpenImageIO and of Pillow, alpha too`, async () => {
      const ours = await decode(write(format, randomBlocks(bytesPerBlock), code));
      expect(greatest(ours, openImageIo('R,G,B'), 3)).to.be.at.most(1);
      const { mode, bytes } = pillow();
      expect(mode).to.equal('RGBA');
      expect(greatest(ours, bytes, 4)).to.be.at.most(1);
    });
  }

  it('bc4: within 1 of OpenImageIO, as grey', async () => {
    const ours = await decode(write('bc4', randomBlocks(8)));
    expect(greatest(ours, openImageIo('0'), 1)).to.be.at.most(1);
    expect(ours[1]).to.equal(ours[0]);
  });

  it('bc5: within 1 of OpenImageIO and of Pillow', async () => {
    const ours = await decode(write('bc5', randomBlocks(16)));
    expect(greatest(ours, openImageIo('R,G,B=0'), 3)).to.be.at.most(1);
    expect(greatest(ours, pillow().bytes, 3)).to.be.at.most(1);
  });

  it('bc4 and bc5 with a sign: as the specification has them (section 19, RGTC)', async () => {
    // Ends -127 and 127: the first index names the first end, the second the second, the third six sevenths of the way.
    const block = [0x81, 0x7f, 0b10_001_000, 0b011_100_01, 0b111_110_10, 0, 0, 0];
    const data = Uint8Array.from({ length: (width / 4) * (height / 4) }, () => 0).length;
    const blocks = Buffer.concat(Array.from({ length: data }, () => Buffer.from(block)));
    const ours = await decode(ddsFile({ width, height, format: 'bc4s', data: blocks }));
    // a < b: four steps between, and the two extremes.
    const wanted = [-127, 127, -76.2, -25.4, 25.4, 76.2, -127, 127].map((value) =>
      Math.round((value / 127 + 1) * 127.5),
    );
    const indices = [0, 1, 2, 3, 4, 5, 6, 7].map((pixel) => {
      const bits = (block[2] ?? 0) | ((block[3] ?? 0) << 8) | ((block[4] ?? 0) << 16);
      return (bits >> (pixel * 3)) & 7;
    });
    for (const [pixel, index] of indices.entries()) {
      const at = (Math.floor(pixel / 4) * width + (pixel % 4)) * 4;
      expect(Math.abs((ours[at] ?? 0) - (wanted[index] ?? 0)), `pixel ${pixel}`).to.be.at.most(1);
    }
  });

  it('bc7: bit for bit as OpenImageIO and Pillow, in every mode', async () => {
    const blocks = randomBlocks(16);
    // The mode is told by the lowest bit that is set.
    for (let block = 0; block < blocks.length / 16; block++) {
      const mode = block % 8;
      blocks[block * 16] = ((blocks[block * 16] ?? 0) & ~((2 << mode) - 1)) | (1 << mode);
    }
    const ours = await decode(write('bc7', blocks));
    expect(greatest(ours, openImageIo('R,G,B'), 3)).to.equal(0);
    expect(greatest(ours, pillow().bytes, 4)).to.equal(0);
  });

  for (const format of ['bc6h', 'bc6hs'] as const) {
    it(`${format}: bit for bit as OpenImageIO, in every mode`, async () => {
      const blocks = randomBlocks(16);
      const modes = [0x00, 0x01, 0x02, 0x06, 0x0a, 0x0e, 0x12, 0x16, 0x1a, 0x1e, 0x03, 0x07, 0x0b, 0x0f];
      for (let block = 0; block < blocks.length / 16; block++) {
        const mode = modes[block % modes.length] ?? 0;
        const mask = mode < 2 ? 3 : 31;
        blocks[block * 16] = ((blocks[block * 16] ?? 0) & ~mask) | mode;
      }
      const ours = await decode(write(format, blocks));
      const out = join(folder, 'out.exr');
      run('oiiotool', [file, '--ch', 'R,G,B', '-d', 'half', '--compression', 'none', '-o', out], folder);
      const { data } = new EXRLoader().setDataType(FloatType).parse(readFileSync(out).buffer);
      const theirs = data as Float32Array;
      const wrong = new Set<number>();
      for (let y = 0; y < height; y++)
        for (let x = 0; x < width; x++)
          for (let channel = 0; channel < 3; channel++) {
            const value = ours[(y * width + x) * 4 + channel];
            // That loader's rows come from the bottom.
            const other = theirs[((height - 1 - y) * width + x) * 4 + channel];
            if (!Object.is(value, other) && value !== other)
              wrong.add((Math.floor(y / 4) * (width / 4) + Math.floor(x / 4)) % modes.length);
          }
      expect([...wrong].map((mode) => (modes[mode] ?? 0).toString(16))).to.deep.equal([]);
    });
  }
});
