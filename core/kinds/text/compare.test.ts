import { expect } from 'chai';
import jsonpatch from 'fast-json-patch';
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { TextDetail } from '../../../contract/comparisons.ts';
import { compareBytes } from '../../../tests/support/compare.ts';
import { jsonPatch } from './compare/json-patch.ts';
import { lineRuns, linesOf } from './compare/lines.ts';
import { writePatch } from './compare/write-patch.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);
const compared = async (
  old: string,
  now: string,
  path: string,
): Promise<{ sentence: string; nature: string; text: TextDetail }> => {
  const { sentence, nature, detail } = await compareBytes(
    { bytes: bytes(old), path },
    { bytes: bytes(now), path },
  );
  if (detail?.kind !== 'text') throw new Error('no detail of a text');
  return { sentence, nature, text: detail };
};

function seeded(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (Math.imul(state, 1103515245) + 12345) & 0x7fffffff;
    return (state >> 8) % below;
  };
}

describe('lineRuns', () => {
  it('is as short as what GNU diff finds, and `patch` makes the newer text of the older one by what is saved', () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-lines-'));
    const random = seeded(9);
    try {
      for (let round = 0; round < 25; round++) {
        const text = (): string =>
          `${Array.from({ length: 5 + random(30) }, () => `line ${random(9)}`).join('\n')}\n`;
        const [old, now] = [text(), text()];
        writeFileSync(join(folder, 'old'), old);
        writeFileSync(join(folder, 'new'), now);
        const runs = lineRuns(old, now);
        const theirs = spawnSync('diff', ['--minimal', 'old', 'new'], {
          cwd: folder,
          encoding: 'utf8',
        }).stdout;
        const edits = theirs.split('\n').filter((line) => /^[<>]/.test(line)).length;
        expect(
          runs.filter(({ status }) => status !== 'same').reduce((sum, { lines }) => sum + lines.length, 0),
        ).to.equal(edits);
        const { status, stderr, stdout } = spawnSync('patch', ['--unified', '--quiet', '-o', 'made', 'old'], {
          cwd: folder,
          input: writePatch('plain', { path: 'old', text: old }, { path: 'new', text: now }).text,
          encoding: 'utf8',
        });
        expect(status, stderr + stdout).to.equal(0);
        expect(readFileSync(join(folder, 'made'), 'utf8')).to.equal(now);
      }
    } finally {
      rmSync(folder, { recursive: true, force: true });
    }
  });

  it('does not mind how lines end', () => {
    expect(lineRuns('a\r\nb\r\n', 'a\nb\n').map(({ status }) => status)).to.deep.equal(['same']);
    expect(linesOf('\ufeffa\rb')).to.deep.equal(['a', 'b']);
  });
});

describe('jsonPatch', () => {
  it('makes the newer value of the older one, applied by a general-purpose library (RFC 6902)', () => {
    const random = seeded(31);
    const value = (depth: number): unknown => {
      const choice = random(depth > 3 ? 4 : 6);
      if (choice === 0) return random(20);
      if (choice === 1) return ['heron', 'lamp', 'a/b', '~tilde', ''][random(5)];
      if (choice === 2) return random(2) === 0;
      if (choice === 3) return null;
      if (choice === 4) return Array.from({ length: random(6) }, () => value(depth + 1));
      return Object.fromEntries(
        Array.from({ length: random(6) }, () => [
          ['id', 'a/b', 'm~n', 'parts', 'x', ''][random(6)] ?? '',
          value(depth + 1),
        ]),
      );
    };
    for (let round = 0; round < 400; round++) {
      const [old, now] = [
        { root: value(0), list: [1, 2, value(2)] },
        { root: value(0), list: [0, 1, 2, value(2)] },
      ];
      const patch = jsonPatch(old, now);
      const made = jsonpatch.applyPatch(
        structuredClone(old),
        patch as Parameters<typeof jsonpatch.applyPatch>[1],
        true,
      ).newDocument;
      expect(made).to.deep.equal(now);
    }
  });

  it('touches no item of a list but the one that was put in front', () => {
    expect(jsonPatch(['b', 'c'], ['a', 'b', 'c'])).to.deep.equal([{ op: 'add', path: '/0', value: 'a' }]);
    expect(jsonPatch({ a: [{ x: 1 }, { x: 2 }] }, { a: [{ x: 1 }, { x: 3 }] })).to.deep.equal([
      { op: 'replace', path: '/a/1/x', value: 3 },
    ]);
  });
});

describe('comparing texts', () => {
  it('tells values by key, in JSON, INI, XML, tables and strings', async () => {
    const json = await compared(
      '{"speed": 4, "name": "Heron", "old": 1}',
      '{"name": "Heron", "speed": 5, "wings": 2}',
      'a.json',
    );
    expect(json.text.values).to.deep.equal([
      { status: 'changed', key: 'speed', old: '4', new: '5' },
      { status: 'added', key: 'wings', old: '', new: '2' },
      { status: 'gone', key: 'old', old: '1', new: '' },
    ]);
    expect(json.sentence).to.equal('“speed” 4 → 5, “wings” new: 2, “old” gone: 1.');
    expect((await compared('{"a":1,"b":[1, 2]}', '{\n "b": [1,2],\n "a": 1 }', 'a.json')).nature).to.equal(
      'rewritten',
    );
    expect((await compared('[ferry]\nspeed = 4\n', '[ferry]\nspeed = 6\n', 'a.ini')).sentence).to.equal(
      '“ferry.speed” 4 → 6.',
    );
    expect((await compared('<a><b c="1"/></a>', '<a><b c="2"/></a>', 'a.xml')).sentence).to.equal(
      '“a.b.@c” 1 → 2.',
    );
    expect(
      (await compared('id,price\noar,3\nrope,5\n', 'id,price\noar,4\nrope,5\nsail,9\n', 'a.csv')).sentence,
    ).to.equal('“oar.price” 3 → 4, row “sail” new at the end.');
  });

  it('tells words of comments, which are no values', async () => {
    const { nature, sentence } = await compared(
      '; keep\n[ferry]\nspeed = 4\n',
      '; cut with the swamp\n[ferry]\nspeed=4\n',
      'a.ini',
    );
    expect([nature, sentence]).to.deep.equal([
      'other',
      'The same values, a comment changed: “keep” → “cut with the swamp”.',
    ]);
    expect(
      (await compared('; keep\n[ferry]\nspeed = 4\n', '; keep\n\n[ferry]\nspeed=4\n', 'a.ini')).nature,
    ).to.equal('rewritten');
  });

  it('tells strings by language, and what is untranslated', async () => {
    const po = (bell: string): string =>
      `msgid ""\nmsgstr "Language: de\\n"\n\nmsgid "lamp"\nmsgstr "Lampe"\n\nmsgid "bell"\nmsgstr "${bell}"\n`;
    const { text, sentence } = await compared(po('Glocke'), po(''), 'text/de.po');
    expect(text.language).to.equal('de');
    expect(text.untranslated).to.deep.equal(['bell']);
    expect(sentence).to.equal('“bell” Glocke → "", 1 string untranslated.');
  });

  it('counts lines and words of plain text', async () => {
    const { sentence, text } = await compared(
      'The ferry waits.\nFog.\n',
      'The old ferry waits.\nFog.\nReeds.\n',
      'a.txt',
    );
    expect([text.linesAdded, text.linesGone, text.wordsAdded, text.wordsGone]).to.deep.equal([2, 1, 2, 0]);
    expect(sentence).to.equal('1 line changed, 1 new, the first is line 1: “The ferry” → “The old ferry”.');
  });
});
