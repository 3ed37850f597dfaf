import { expect } from 'chai';
import type { TextFacts } from '../../../contract/facts.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';
import { decodeText } from './decode.ts';
import type { KeyedValue } from '../keyed-values.ts';
import { valuesOf } from './values.ts';

const whole = (text: string | Uint8Array, path: string) =>
  readBytes(typeof text === 'string' ? new TextEncoder().encode(text) : text, path);
const read = async (text: string | Uint8Array, path: string): Promise<TextFacts> =>
  (await whole(text, path)).facts as TextFacts;
const values = async (text: string, format: string): Promise<KeyedValue[]> =>
  (await valuesOf(text, format))?.values ?? [];

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

  it('says where JSON, XML and YAML break, and tells its lines all the same', async () => {
    for (const [text, path, reason] of [
      ['{"a": 1,\n "b" 2}', 'x.json', 'line 2, column 6'],
      ['<a>\n<b></a>', 'x.xml', 'line 2'],
      ['a: 1\nb: [1,\n', 'x.yaml', 'not valid YAML'],
    ] as const) {
      const { facts, damage, decoded } = await whole(text, path);
      expect(damage).to.include(reason);
      expect(decoded).to.equal(null);
      expect(facts).to.include({ kind: 'text', values: null });
    }
  });

  it('reads values with the keys that lead to them', async () => {
    expect(await values('{"lamp": {"lit": true, "oils": [3, 4]}}', 'json')).to.deep.equal([
      { key: 'lamp.lit', value: 'true' },
      { key: 'lamp.oils.0', value: '3' },
      { key: 'lamp.oils.1', value: '4' },
    ]);
    expect(await values('lamp:\n  lit: yes\n', 'yaml')).to.deep.equal([{ key: 'lamp.lit', value: 'yes' }]);
    expect(await values('<map name="isle"><lamp lit="1">warm</lamp></map>', 'xml')).to.deep.include({
      key: 'map.lamp.@lit',
      value: '1',
    });
    expect(await values('[lamp]\nlit = 1\n', 'ini')).to.deep.equal([{ key: 'lamp.lit', value: '1' }]);
    expect(await values('id,en,de\nlamp,"Lamp, lit",Lampe\n', 'csv')).to.deep.equal([
      { key: 'lamp.en', value: 'Lamp, lit' },
      { key: 'lamp.de', value: 'Lampe' },
    ]);
    expect(await values('"menu.start" = "Cast off";\n# remark\nmenu.end: Moor\n', 'strings')).to.deep.equal([
      { key: 'menu.start', value: 'Cast off' },
      { key: 'menu.end', value: 'Moor' },
    ]);
  });

  it('takes JSON that is nested deeper than calls may be', async () => {
    const deep = `${'['.repeat(50_000)}1${']'.repeat(50_000)}`;
    const { facts, damage, decoded } = await whole(deep, 'x.json');
    expect(damage).to.equal(null);
    expect(facts).to.include({ values: 1 });
    expect(decoded).to.not.equal(null);
  });

  it('reads PO with its language, contexts and plurals (GNU gettext manual, chapter 3)', async () => {
    const text =
      'msgid ""\nmsgstr "Language: de\\n"\n\nmsgctxt "menu"\nmsgid "Cast off"\nmsgstr "Ablegen"\n\nmsgid "a heron"\nmsgid_plural "herons"\nmsgstr[0] "ein Reiher"\nmsgstr[1] "Reiher"\n';
    const { facts } = await whole(text, 'de/menu.po');
    expect(facts).to.include({ values: 3, language: 'de' });
    expect(await values(text, 'po')).to.deep.include({ key: 'menu.Cast off', value: 'Ablegen' });
  });

  it('takes the language from the path where nothing else says it', async () => {
    expect((await read('a=b', 'text/de/menu.ini')).language).to.equal('de');
    expect((await read('a=b', 'menu_pt-br.ini')).language).to.equal('pt-br');
    expect((await read('a=b', 'models/it/no.ini')).language).to.equal('it');
    expect((await read('a=b', 'menu.ini')).language).to.equal(null);
  });

  it('takes the same content for the same, whatever its encoding, ends of lines and, in JSON, order', async () => {
    const fingerprint = async (text: string | Uint8Array, path: string) =>
      fingerprintOf(await whole(text, path));
    const wide = Buffer.from('\ufeffreeds\r\nhérons', 'utf16le');
    expect(await fingerprint(wide, 'x.txt')).to.equal(await fingerprint('reeds\nhérons', 'x.txt'));
    expect(await fingerprint('{"b": [1], "a": {"d": 1, "c": 2}}', 'x.json')).to.equal(
      await fingerprint('{"a":{"c":2,"d":1},"b":[1]}', 'x.json'),
    );
    expect(await fingerprint('{"b": [1, 2]}', 'x.json')).to.not.equal(
      await fingerprint('{"b": [2, 1]}', 'x.json'),
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
    // Of old tools: Japanese and Russian in the encodings of their time (WHATWG Encoding Standard).
    const japanese = Buffer.concat(
      Array.from({ length: 12 }, () => Buffer.from('83898393835e815b8393', 'hex')),
    );
    expect(decodeText(japanese)).to.include({ encoding: 'shift_jis', text: 'ランターン'.repeat(12) });
    const wide = new Uint8Array(Buffer.from('no mark, wide letters', 'utf16le'));
    expect(decodeText(wide)).to.deep.equal({ text: 'no mark, wide letters', encoding: 'utf-16le' });
  });
});
