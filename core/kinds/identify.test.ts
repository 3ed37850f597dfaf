import { expect } from 'chai';
import { identify, looksLikeText } from './identify.ts';

const bytes = (text: string) => Uint8Array.from(text, (letter) => letter.charCodeAt(0));

describe('identify', () => {
  it('goes by the first bytes, whatever the extension says', () => {
    expect(identify(bytes('\x89PNG\r\n\x1a\n____'), 'reed.wav')).to.deep.equal({
      format: 'png',
      byExtension: false,
    });
    expect(identify(bytes('RIFF____WAVEfmt '), 'bell.bin')).to.deep.equal({
      format: 'wav',
      byExtension: false,
    });
    expect(identify(bytes('PK\x03\x04'), 'props.pak')).to.deep.equal({ format: 'zip', byExtension: false });
  });

  it('falls back to the extension for text, and to nothing for a format that must have a signature', () => {
    expect(identify(bytes('[lamp]\nlit=1\n'), 'lamp.ini')).to.deep.equal({
      format: 'ini',
      byExtension: true,
    });
    expect(identify(bytes('not a picture'), 'lamp.png').format).to.equal('binary');
    expect(identify(bytes('a\0b'), 'lamp.txt').format).to.equal('binary');
  });

  it('tells a placement table from other JSON by its key', () => {
    expect(identify(bytes('{"name":"pier","placements": [{'), 'pier.json').format).to.equal('placements');
    expect(identify(bytes('{"places": 3}'), 'pier.json').format).to.equal('json');
    expect(identify(bytes('{"asset":{"version":"2.0"}}'), 'pier.gltf').format).to.equal('gltf');
  });

  it('takes an empty file for binary and a nameless text for plain text', () => {
    expect(identify(new Uint8Array(0), 'empty').format).to.equal('binary');
    expect(identify(bytes('hello'), 'README').format).to.equal('plain');
    expect(looksLikeText(bytes('\xff\xfeh\0'))).to.equal(true);
  });
});
