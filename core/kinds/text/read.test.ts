import { expect } from 'chai';
import type { TextFacts } from '../../../contract/facts.ts';
import { ReadError, type ReadRequest } from '../reading.ts';
import { decodeText } from './decode.ts';
import { readText } from './read.ts';

const read = async (text: string | Uint8Array, path: string): Promise<TextFacts> => {
  const bytes = typeof text === 'string' ? new TextEncoder().encode(text) : text;
  const { facts } = await readText({ bytes, path } as ReadRequest);
  return facts as TextFacts;
};

describe('readText', () => {
  it('counts lines whatever ends them', async () => {
    expect((await read('a\nb\r\nc\rd', 'x.txt')).lines).to.equal(4);
    expect((await read('a\nb\n', 'x.txt')).lines).to.equal(2);
    expect((await read('', 'x.txt')).lines).to.equal(0);
    expect((await read('\r\n\r\n', 'x.txt')).lines).to.equal(2);
  });

  it('counts the values of structured files', async () => {
    expect((await read('{"a": 1, "b": [2, {"c": null}]}', 'x.json')).values).to.equal(3);
    expect((await read('id,coins\nx,1\n\ny,2\n', 'x.csv')).values).to.equal(2);
    expect((await read('; lamp\n[lamp]\nlit=1\n  warm = yes\n# no=1\n', 'x.ini')).values).to.equal(2);
    expect((await read('plain = text', 'x.txt')).values).to.equal(null);
  });

  it('says where JSON breaks', async () => {
    await read('{"a": 1,\n "b" 2}', 'x.json').then(
      () => expect.fail('it should not be read'),
      (error: unknown) =>
        expect(error).to.be.instanceOf(ReadError).with.property('message').that.includes('line 2, column 6'),
    );
  });

  it('finds the encoding', () => {
    expect(decodeText(Uint8Array.of(0xff, 0xfe, 0x68, 0, 0xe9, 0))).to.deep.equal({
      text: 'hé',
      encoding: 'utf-16le',
    });
    expect(decodeText(Uint8Array.of(0xfe, 0xff, 0, 0x68, 0, 0xe9))).to.deep.equal({
      text: 'hé',
      encoding: 'utf-16be',
    });
    expect(decodeText(Uint8Array.of(0x68, 0xc3, 0xa9))).to.deep.equal({ text: 'hé', encoding: 'utf-8' });
    expect(decodeText(Uint8Array.of(0x68, 0xe9))).to.deep.equal({ text: 'hé', encoding: 'windows-1252' });
  });
});
