import { expect } from 'chai';
import sharp from 'sharp';
import type { PictureFacts } from '../../../contract/facts.ts';
import { readBytes } from '../../../tests/support/read.ts';
import type { Reading } from '../reading.ts';

const read = (bytes: Uint8Array): Promise<Reading> => readBytes(bytes, 'x');
const plain = (width: number, height: number, channels: 3 | 4) =>
  sharp({ create: { width, height, channels, background: { r: 200, g: 40, b: 90, alpha: 0.5 } } });

describe('readPicture', () => {
  it('tells what the PNG header says (ISO/IEC 15948, 11.2.2)', async () => {
    const bytes = await plain(700, 350, 4).png().toBuffer();
    const header = new DataView(bytes.buffer, bytes.byteOffset + 16);
    const { facts, preview } = await read(bytes);
    expect(facts).to.deep.include({
      width: header.getUint32(0),
      height: header.getUint32(4),
      bitsPerChannel: header.getUint8(8),
      channels: 4,
      hasAlpha: true,
      frames: 1,
    });
    expect([preview?.width, preview?.height]).to.deep.equal([320, 160]);
  });

  it('reads JPEG, WebP and GIF, and 16 bits a channel', async () => {
    for (const [bytes, bits] of [
      [await plain(64, 32, 3).jpeg().toBuffer(), 8],
      [await plain(64, 32, 4).webp().toBuffer(), 8],
      [await plain(64, 32, 3).gif().toBuffer(), 8],
      [await plain(64, 32, 3).toColourspace('rgb16').png().toBuffer(), 16],
    ] as const) {
      const facts = (await read(bytes)).facts as PictureFacts;
      expect(facts).to.include({ width: 64, height: 32, bitsPerChannel: bits });
    }
  });

  it('counts the frames of a moving picture', async () => {
    const bytes = await sharp(
      [10, 90, 200].map((grey) => ({
        create: { width: 16, height: 16, channels: 3 as const, background: { r: grey, g: grey, b: grey } },
      })) as never,
      { join: { animated: true } },
    )
      .gif()
      .toBuffer();
    expect(((await read(bytes)).facts as PictureFacts).frames).to.equal(3);
  });

  it('keeps a small picture as it is, and says why a damaged one cannot be shown', async () => {
    const bytes = await plain(5, 3, 4).png().toBuffer();
    expect((await read(bytes)).preview).to.include({ width: 5, height: 3 });
    const cut = await read((await plain(400, 400, 3).png().toBuffer()).subarray(0, 300));
    expect(cut.damage).to.match(/^the picture cannot be decoded: /);
    // What was read before that is told all the same.
    expect(cut.facts).to.include({ width: 400, height: 400 });
    expect(cut.preview).to.equal(null);
  });
});
