import { expect } from 'chai';
import sharp from 'sharp';
import { compareBytes } from '../../../tests/support/compare.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';
import { compareDisplays, gammaOfPng, nameOfProfile, plainDisplay } from './display.ts';

/** A chunk of PNG, with a check sum that nobody looks at here. */
function chunk(type: string, data: Buffer): Buffer {
  const head = Buffer.alloc(8);
  head.writeUInt32BE(data.length);
  head.write(type, 4, 'latin1');
  return Buffer.concat([head, data, Buffer.alloc(4)]);
}

const signature = Buffer.from('89504e470d0a1a0a', 'hex');
const number = (value: number): Buffer => {
  const bytes = Buffer.alloc(4);
  bytes.writeUInt32BE(value);
  return bytes;
};

/** How a picture is shown, beside what its pixels are. */
describe('The display of a picture', () => {
  it('has the gamma that its file says, where that is not the usual one', () => {
    const png = (...chunks: Buffer[]): Uint8Array =>
      Buffer.concat([signature, chunk('IHDR', Buffer.alloc(13)), ...chunks, chunk('IDAT', Buffer.alloc(4))]);
    expect(gammaOfPng(png(chunk('gAMA', number(100_000))))).to.equal(1);
    // PNG, section 11.3.3.2: 45455 is that of sRGB.
    expect(gammaOfPng(png(chunk('gAMA', number(45_455))))).to.equal(null);
    expect(gammaOfPng(png())).to.equal(null);
    // sRGB goes before gAMA (section 11.3.3.5).
    expect(gammaOfPng(png(chunk('sRGB', Buffer.alloc(1)), chunk('gAMA', number(100_000))))).to.equal(null);
    for (const broken of [Buffer.alloc(0), signature, png(chunk('gAMA', Buffer.alloc(1))), Buffer.alloc(200)])
      expect(gammaOfPng(broken)).to.equal(null);
    const endless = Buffer.concat([signature, number(0xffffffff), Buffer.from('junk'), Buffer.alloc(40)]);
    expect(gammaOfPng(endless)).to.equal(null);
  });

  it('has the name of its profile, in either form; that of sRGB is none', () => {
    const profile = (tag: Buffer): Uint8Array => {
      const bytes = Buffer.alloc(144 + tag.length);
      bytes.writeUInt32BE(1, 128);
      bytes.write('desc', 132, 'latin1');
      bytes.writeUInt32BE(144, 136);
      bytes.writeUInt32BE(tag.length, 140);
      tag.copy(bytes, 144);
      return bytes;
    };
    const plain = (name: string): Buffer =>
      Buffer.concat([Buffer.from('desc\0\0\0\0'), number(name.length + 1), Buffer.from(`${name}\0`)]);
    const wide = (name: string): Buffer => {
      const text = Buffer.from(name, 'utf16le').swap16();
      return Buffer.concat([
        Buffer.from('mluc\0\0\0\0'),
        number(1),
        number(12),
        Buffer.from('enUS'),
        number(text.length),
        number(28),
        text,
      ]);
    };
    expect(nameOfProfile(profile(plain('Wide colours')))).to.equal('Wide colours');
    expect(nameOfProfile(profile(wide('Wide colours')))).to.equal('Wide colours');
    expect(nameOfProfile(profile(plain('sRGB IEC61966-2.1')))).to.equal('');
    expect(nameOfProfile(Buffer.alloc(20))).to.equal('a profile of 20 bytes');
    const lying = profile(plain('x'));
    new DataView(lying.buffer, lying.byteOffset).setUint32(140, 1e9);
    expect(nameOfProfile(lying)).to.match(/^a profile of \d+ bytes$/);
  });

  it('tells all that differs, and nothing where nothing does', () => {
    expect(compareDisplays(plainDisplay, plainDisplay)).to.deep.equal({ words: [], figures: [] });
    const { words, figures } = compareDisplays(
      { orientation: 1, profile: '', gamma: null, frameMs: [50, 50] },
      { orientation: 6, profile: 'Wide', gamma: 1, frameMs: [50, 100] },
    );
    expect(words).to.deep.equal([
      'it says that it is shown turned by 90° instead of upright',
      'colour profile Wide instead of none',
      'gamma 1.000 instead of none',
      'each frame shown for 150 ms in all instead of 50 ms',
    ]);
    expect(figures).to.have.length(4);
  });

  it('makes another content of the same pixels', async () => {
    const pixels = sharp({ create: { width: 40, height: 30, channels: 3, background: 'teal' } });
    const jpeg = async (orientation: number): Promise<{ bytes: Uint8Array; path: string }> => ({
      bytes: await pixels.clone().withMetadata({ orientation }).jpeg({ quality: 90 }).toBuffer(),
      path: 'a.jpg',
    });
    const [upright, turned] = [await jpeg(1), await jpeg(8)];
    const prints = await Promise.all(
      [upright, turned].map(async ({ bytes, path }) => fingerprintOf(await readBytes(bytes, path))),
    );
    expect(prints[0]).not.to.equal(prints[1]);
    const { nature, sentence } = await compareBytes(upright, turned);
    expect([nature, sentence]).to.deep.equal([
      'other',
      'The same pixels, it says that it is shown turned by 270° instead of upright.',
    ]);
  });
});
