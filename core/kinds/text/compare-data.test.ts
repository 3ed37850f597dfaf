import { expect } from 'chai';
import jsonpatch from 'fast-json-patch';
import { parse as parseLossless, stringify } from 'lossless-json';
import { nodePlatform } from '../../../server/decode/platform.ts';
import { seeded } from '../../../demo/seeded.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { readContent } from '../read.ts';
import { dataChanges } from '../data/data-changes.ts';
import { jsonPatch } from './compare/json-patch.ts';
import { writePatch } from './compare/write-patch.ts';
import { decimalOf, parseJson } from '../parse-json.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

async function sentenceOf(path: string, old: string, now: string): Promise<string> {
  const { nature, sentence } = await compareBytes({ bytes: bytes(old), path }, { bytes: bytes(now), path });
  // What is told to be the same is folded away, and only that.
  expect(nature === 'rewritten' || nature === 'same', sentence).to.equal(
    sentence.startsWith('The same') && !/comment|other words/.test(sentence),
  );
  return sentence;
}

async function print(path: string, text: string): Promise<string> {
  const content = bytes(text);
  const { decoded } = await readContent(path.split('.').at(-1) ?? '', {
    bytes: content,
    size: content.length,
    part: (start, end) => content.subarray(start, end),
    path,
    platform: nodePlatform,
    resolve: () => Promise.resolve(null),
  });
  return Buffer.concat(decoded ?? []).toString('hex');
}

const table = 'id,hp,name\na,1,Alder\nb,2,Bell\nc,3,Crane\n';
const birds = '{"birds":[{"id":"a","hp":1},{"id":"b","hp":2},{"id":"c","hp":3}]}';

/** What must be said, word by word: file, older text, newer text. */
const sayings: readonly [path: string, old: string, now: string, sentence: string][] = [
  ['a.json', '{"sign in here":1}', '{"sign in here":2}', '“sign in here” 1 → 2.'],
  ['a.json', '{"#":1, " order":2}', '{"#":5, " order":7}', '“#” 1 → 5, “ order” 2 → 7.'],
  [
    'a.mtl',
    'newmtl a\nmap_Kd -o 1 1 x.png\n',
    'newmtl a\nmap_Kd -o 7 1 x.png\n',
    'The same values, other words beside them: 7 1.',
  ],
  [
    'a.po',
    'msgid ""\nmsgstr "Plural: 2"\n',
    'msgid ""\nmsgstr "Plural: 3"\n',
    'The same values, other words beside them: 3 2.',
  ],
  [
    'a.json',
    '{"id":76561198000000001}',
    '{"id":76561198000000003}',
    '“id” 76561198000000001 → 76561198000000003.',
  ],
  [
    'a.json',
    '{"id":18446744073709551615}',
    '{"id":18446744073709551614}',
    '“id” 18446744073709551615 → 18446744073709551614.',
  ],
  [
    'a.json',
    '{"x":0.12345678901234567890}',
    '{"x":0.12345678901234567891}',
    '“x” 0.12345678901234567890 → 0.12345678901234567891.',
  ],
  ['a.json', '{"x":1.0,"y":1e3}', '{"x":1,"y":1000.00}', 'The same values, written otherwise.'],
  ['a.json', '{"x":100000000000000000000}', '{"x":1e20}', 'The same values, written otherwise.'],
  ['a.json', '{"n":1}', '{"n":"1"}', '“n” 1 → "1".'],
  ['a.json', '{"n":true}', '{"n":"true"}', '“n” true → "true".'],
  ['a.json', '{"n":null}', '{"n":"null"}', '“n” null → "null".'],
  ['a.json', '{"n":""}', '{"n":null}', '“n” "" → null.'],
  ['a.json', '{"n":[]}', '{"n":{}}', '“n” [] → {}.'],
  ['a.json', '{"n":"heron"}', '{"n":"heron "}', '“n” heron → "heron ".'],
  ['a.json', '{"n":"a b"}', '{"n":"a\\u00a0b"}', '“n” a b → "a\\u00a0b".'],
  ['a.json', '{"n":"é"}', '{"n":"\\u00e9"}', 'The same values, written otherwise.'],
  ['a.json', '{"a":1,"b":2}', '{ "b": 2, "a": 1 }', 'The same values, written otherwise.'],
  ['a.json', '{"speed":4,"name":"x"}', '{"velocity":4,"name":"x"}', '“speed” renamed to “velocity”.'],
  ['a.json', '{"speed":4}', '{"velocity":5}', '“velocity” new: 5, “speed” gone: 4.'],
  [
    'a.json',
    '{"gru":{"hp":10,"sp":4},"b":1}',
    '{"heron":{"hp":10,"sp":4},"b":1}',
    '“gru” renamed to “heron”.',
  ],
  [
    'a.json',
    '{"gru":{"hp":10,"sp":4,"x":7},"b":1}',
    '{"heron":{"hp":10,"sp":5,"x":7},"b":1}',
    '“gru” renamed to “heron”, “heron.sp” 4 → 5.',
  ],
  ['a.json', '[2,3,4]', '[1,2,3,4]', 'Item new at the front: 1.'],
  ['a.json', '{"l":[1,2,3]}', '{"l":[1,2,3,4,5]}', '2 items new at the end.'],
  ['a.json', '{"l":[1,2,3]}', '{"l":[1,3]}', '“l[1]” gone: 2.'],
  ['a.json', '[3,1,2,5,4]', '[1,2,3,4,5]', '2 items moved.'],
  ['a.json', '[1,2,3]', '[3,2,1]', 'Items in another order.'],
  ['a.json', birds, birds.replace('"hp":2', '"hp":5'), '“birds[id=b].hp” 2 → 5.'],
  ['a.json', birds, birds.replace('[{', '[{"id":"z","hp":9},{'), '“birds[id=z]” new at the front.'],
  [
    'a.json',
    birds,
    '{"birds":[{"id":"c","hp":3},{"id":"a","hp":1},{"id":"b","hp":2}]}',
    '1 item of “birds” moved.',
  ],
  ['a.json', birds, birds.replaceAll('"hp"', '"health"'), '“hp” renamed to “health” in 3 places.'],
  [
    'a.json',
    birds,
    birds.replace(/"hp":(\d)/g, '"hp":1$1'),
    '“birds[id=a].hp” 1 → 11, “birds[id=b].hp” 2 → 12, “birds[id=c].hp” 3 → 13.',
  ],
  [
    'a.yaml',
    'id: 76561198000000001\n',
    'id: 76561198000000003\n',
    '“id” 76561198000000001 → 76561198000000003.',
  ],
  ['a.yaml', 'a: 1\n', 'a: "1"\n', '“a” 1 → "1".'],
  ['a.yaml', 'a: [1, 2]\n', 'a:\n  - 1\n  - 2\n', 'The same values, written otherwise.'],
  ['a.yaml', 'a: 1 # keep\n', 'a: 1 # drop\n', 'The same values, a comment changed: “keep” → “drop”.'],
  ['a.csv', table, table.replace('2,Bell', '7,Bell'), '“b.hp” 2 → 7.'],
  ['a.csv', table, table.replace('hp', 'health'), '“hp” renamed to “health”.'],
  ['a.csv', table, 'id,name,hp\na,Alder,1\nb,Bell,2\nc,Crane,3\n', 'Columns in another order.'],
  ['a.csv', table, table.replace('a,1', 'z,9,Zeal\na,1'), 'Row “z” new at the front.'],
  ['a.csv', table, table.replace('b,2,Bell\n', ''), 'Row “b” gone.'],
  ['a.csv', table, 'id,hp,name\nc,3,Crane\na,1,Alder\nb,2,Bell\n', '1 row moved.'],
  ['a.csv', table, table.replace('b,', 'bb,'), 'Row “b” renamed to “bb”.'],
  ['a.csv', table, table.replace('Bell', 'Bell '), '“b.name” Bell → "Bell ".'],
  [
    'a.csv',
    table,
    table.replaceAll(',', ';').replace('Bell', '"Bell"'),
    'The same values, written otherwise.',
  ],
  ['a.csv', table, 'id,hp,name,wings\na,1,Alder,0\nb,2,Bell,0\nc,3,Crane,2\n', 'Column “wings” new.'],
  ['a.csv', table, 'id,name\na,Alder\nb,Bell\nc,Crane\n', 'Column “hp” gone.'],
  ['a.csv', 'x,x,x\n1,1,2\n1,1,2\n', 'x,x,x\n1,1,2\n1,1,3\n', '“row 3.column 3” 2 → 3.'],
  ['a.xml', '<a><b/></a>', '<a><b></b></a>', 'The same values, written otherwise.'],
  [
    'a.xml',
    '<x:a xmlns:x="u"><x:b k="1"/></x:a>',
    '<y:a xmlns:y="u"><y:b k="1"/></y:a>',
    'The same values, written otherwise.',
  ],
  ['a.xml', '<a xmlns="u"><b/></a>', '<a xmlns="v"><b/></a>', 'Namespace “u” renamed to “v” in 2 places.'],
  ['a.xml', '<a k="1" l="2"/>', "<a l='2' k='1'></a>", 'The same values, written otherwise.'],
  ['a.xml', '<a>&#65;&lt;</a>', '<a><![CDATA[A<]]></a>', 'The same values, written otherwise.'],
  [
    'a.xml',
    '<a><b n="1"/><b n="2"/></a>',
    '<a><b n="0"/><b n="1"/><b n="2"/></a>',
    '“a.b[n=0]” new at the front.',
  ],
  [
    'a.xml',
    '<a><bird n="x" hp="1"/><bird n="y" hp="2"/></a>',
    '<a><bird n="x" hp="1"/><fowl n="y" hp="2"/></a>',
    '“bird” renamed to “fowl”.',
  ],
  ['a.xml', '<a><b>x</b><c>y</c></a>', '<a><c>y</c><b>x</b></a>', 'Elements in another order.'],
  ['a.xml', '<a><b>x</b></a>', '<a><b>z &amp; w</b></a>', '“a.b” x → z & w.'],
  [
    'a.xml',
    '<a><!-- old --><b/></a>',
    '<a><!-- new --><b/></a>',
    'The same values, a comment changed: “old” → “new”.',
  ],
  ['a.ini', '[ferry]\nspeed = 4\n', '[ferry]\nvelocity = 4\n', '“speed” renamed to “velocity”.'],
  ['a.ini', '[ferry]\nspeed = 4\nname = x\n', '[boat]\nspeed = 4\nname = x\n', '“ferry” renamed to “boat”.'],
  ['a.mtl', 'newmtl red\nKd 1 0 0\nNs 10\n', 'newmtl rot\nKd 1 0 0\nNs 10\n', '“red” renamed to “rot”.'],
  [
    'a.txt',
    'The ferry waits at the pier.\nFog.\n',
    'The ferry sails at the pier.\nFog.\n',
    'Line 1: “waits” → “sails”.',
  ],
  ['a.txt', 'one\ntwo\nthree\n', 'one\ntwo\nnew\nthree\n', 'Line 3 new: “new”.'],
  ['a.txt', 'one\ntwo\nthree\n', 'one\nthree\n', 'Line 2 gone: “two”.'],
  ['a.txt', 'one\ntwo\nthree\n', 'three\none\ntwo\n', 'Line 3 moved to line 1.'],
  ['a.txt', 'one\ntwo\nthree\n', 'one\ntwo \nthree\n', 'Line 2: “two” → "two ".'],
  ['a.txt', 'a\nb\nc\n', 'A\nb\nC\n', '2 lines changed, the first is line 1: “a” → “A”.'],
  ['a.txt', 'a\nb\n', 'a\nx\ny\nz\nb\n', '3 lines new, from line 2 to 4.'],
  [
    'a.txt',
    'if a:\n  b\n  c\n',
    'if a:\n    b\n    c\n',
    '2 lines changed in spaces alone, the first is line 2.',
  ],
  ['a.txt', 'one\ntwo\n', 'one\r\ntwo\r\n', 'The same text.'],
];

describe('what is said of data and texts', () => {
  for (const [path, old, now, sentence] of sayings)
    it(`${path}: ${sentence}`, async () => expect(await sentenceOf(path, old, now)).to.equal(sentence));

  it('counts lists of more than a few, and names the first', async () => {
    const list = (from: number): string =>
      JSON.stringify({ birds: Array.from({ length: 12 }, (_, at) => ({ id: `b${at}`, hp: at + from })) });
    expect(await sentenceOf('a.json', list(0), list(5))).to.equal(
      '“hp” changed in 12 places, the first is “birds[id=b0].hp” 0 → 5.',
    );
    const rows = Array.from({ length: 9 }, (_, at) => `n${at},1,x\n`).join('');
    expect(await sentenceOf('a.csv', table, `${table}${rows}`)).to.equal('9 rows new at the end.');
  });
});

describe('numbers of many digits', () => {
  it('are another content where another digit stands, and the same where they are written otherwise', async () => {
    const same = ['{"a":76561198000000001}', '{"a" : 76561198000000001.0}', '{"a":7.6561198000000001e16}'];
    const prints = await Promise.all(same.map((text) => print('a.json', text)));
    expect(new Set(prints).size).to.equal(1);
    for (const other of ['{"a":76561198000000003}', '{"a":"76561198000000001"}', '{"a":76561198000000000}'])
      expect(await print('a.json', other)).not.to.equal(prints[0]);
  });

  it('have one way of writing their value, whatever theirs is', () => {
    const values = ['1', '1.0', '1e0', '10e-1', '0.1E1', '+1', '001'];
    expect(new Set(values.map(decimalOf)).size).to.equal(1);
    expect(['0', '-0', '0.0', '0e9'].map(decimalOf)).to.deep.equal(['0', '0', '0', '0']);
    expect(decimalOf('-12300')).not.to.equal(decimalOf('12300'));
  });

  it('stand with all digits in a patch, which a general-purpose parser reads', () => {
    const patch = writePatch(
      'json',
      { path: 'a', text: '{"id": 76561198000000001, "n": 1}' },
      { path: 'a', text: '{"id": 76561198000000003, "n": 1}' },
    );
    expect(stringify(parseLossless(patch.text))).to.equal(
      '[{"op":"replace","path":"/id","value":76561198000000003}]',
    );
  });

  it('of a key that stands twice are those of the last one, as the platform has it', () => {
    expect(stringify(parseJson('{"a":76561198000000001,"a":76561198000000003}'))).to.equal(
      '{"a":76561198000000003}',
    );
  });
});

describe('dataChanges', () => {
  const random = seeded(5);
  const below = (limit: number): number => Math.floor(random() * limit);
  const value = (depth: number): unknown => {
    const choice = below(depth > 2 ? 4 : 6);
    if (choice < 2) return below(30);
    if (choice === 2) return ['heron', 'lamp', '', 'true'][below(4)];
    if (choice === 3) return [null, true, false][below(3)];
    if (choice === 4) return Array.from({ length: below(5) }, () => value(depth + 1));
    return Object.fromEntries(Array.from({ length: below(5) }, () => [`k${below(8)}`, value(depth + 1)]));
  };

  it('are none exactly where a general-purpose library finds no patch', () => {
    for (let round = 0; round < 500; round++) {
      const old = { root: value(0), other: value(0) };
      const now = below(3) === 0 ? structuredClone(old) : { root: value(0), other: value(0) };
      const isSame = jsonpatch.compare(old, now).length === 0;
      expect(dataChanges(old, now).length === 0, JSON.stringify([old, now])).to.equal(isSame);
    }
  });

  it('are no more than a patch has operations, where nothing is renamed or moved', () => {
    for (let round = 0; round < 300; round++) {
      const [old, now] = [{ root: value(0) }, { root: value(0) }];
      const changes = dataChanges(old, now);
      if (changes.some(({ status }) => status === 'renamed' || status === 'moved')) continue;
      expect(changes.length, JSON.stringify([old, now])).to.be.at.most(jsonPatch(old, now).length * 2);
    }
  });

  it('are of the older keys and the newer ones the other way round', () => {
    for (let round = 0; round < 200; round++) {
      const [old, now] = [{ root: value(0) }, { root: value(0) }];
      const [there, back] = [dataChanges(old, now), dataChanges(now, old)];
      const count = (changes: typeof there, status: string): number =>
        changes.filter((change) => change.status === status).length;
      expect(count(back, 'added') - count(there, 'gone')).to.equal(
        count(there, 'added') - count(back, 'gone'),
      );
    }
  });

  it('take seconds at most for lists of twenty thousand', () => {
    const list = (from: number): unknown[] =>
      Array.from({ length: 20_000 }, (_, at) => ({ id: at + from, hp: at % 7, name: `bird ${at}` }));
    const begun = Date.now();
    const changes = dataChanges({ birds: list(0) }, { birds: list(5) });
    expect(changes.length).to.be.above(5);
    expect(Date.now() - begun).to.be.below(10_000);
  });
});
