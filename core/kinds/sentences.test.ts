import { expect } from 'chai';
import type { ModelDetail } from '../../contract/comparisons.ts';
import { compareBytes } from '../../tests/support/compare.ts';
import { lengthText, percentText, sentenceOf, timesText, type LengthUnit } from './comparing.ts';
import { describeModel, type Changes, type ModelFacts } from './model/compare/describe.ts';
import { describeMove, describePose } from './model/compare/describe-pose.ts';
import { describeLook, type LookDifference } from './model/compare/looks.ts';
import { describePoints } from './model/compare/points.ts';
import { describeRelation } from './picture/compare/describe.ts';

/** What holds of every sentence that people read. */
function expectStyle(sentence: string): void {
  expect(sentence).to.match(/^[A-Z“0-9]/, 'begins as a sentence does');
  expect(sentence).to.match(/[.?!…”]$/, 'ends as a sentence does');
  expect(sentence).not.to.match(/NaN|Infinity|undefined|null|\[object| {2}|, ,|\.\./);
  expect(sentence, 'counts nothing').not.to.match(/\b0 (?:words?|lines?|parts?|bones?) /);
  expect(sentence, 'twice is a word').not.to.match(/2\.00 times|\b1 times/);
}

/** Texts of lines: what stood there and what stands there now. */
describe('sentences of texts', () => {
  const story = ['the heron waits', 'a lamp is lit', 'boats come in', 'the gate is shut', 'fog', 'bells'];
  const text = (lines: readonly string[]): string => `${lines.join('\n')}\n`;
  const put = (at: number, ...lines: string[]): string => text(story.toSpliced(at, 1, ...lines));
  const sayings: [name: string, now: string, sentence: string][] = [
    ['a word of a line', put(1, 'a lamp is dark'), 'Line 2: “lit” → “dark”.'],
    ['the first word', put(0, 'one heron waits'), 'Line 1: “the” → “one”.'],
    ['two words apart', put(3, 'a gate is open'), 'Line 4: “the gate is shut” → “a gate is open”.'],
    ['a word more', put(4, 'thick fog'), 'Line 5: “fog” → “thick fog”.'],
    ['a space at its end', put(4, 'fog '), 'Line 5: “fog” → "fog ".'],
    ['a tab for a space', put(2, 'boats\tcome in'), 'Line 3: " " → "\\t".'],
    ['a line new', text(story.toSpliced(2, 0, 'rain')), 'Line 3 new: “rain”.'],
    ['a line new at the front', text(['rain', ...story]), 'Line 1 new: “rain”.'],
    ['a line new at the end', text([...story, 'rain']), 'Line 7 new: “rain”.'],
    ['a line gone', text(story.toSpliced(4, 1)), 'Line 5 gone: “fog”.'],
    ['a line moved', text([...story.slice(1), 'the heron waits']), 'Line 1 moved to line 6.'],
    ['two lines gone', text(story.slice(0, 4)), '2 lines gone, from line 5 on.'],
    ['three lines new', text([...story, 'one', 'two', 'three']), '3 lines new, from line 7 to 9.'],
    ['all but two turned about', text([...story].reverse()), '5 lines in another order, from line 1 on.'],
    [
      'two lines far apart',
      text(story.map((line, at) => (at === 0 || at === 5 ? `${line}!` : line))),
      '2 lines changed, the first is line 1: “waits” → “waits!”.',
    ],
    [
      'one changed and one new',
      text(story.map((line, at) => (at === 0 ? 'the owl waits' : line)).toSpliced(4, 0, 'rain')),
      '1 line changed, 1 new, the first is line 1: “heron” → “owl”.',
    ],
    [
      'indented',
      text(story.map((line) => `  ${line}`)),
      '6 lines changed in spaces alone, the first is line 1.',
    ],
    ['nothing left', '', '6 lines gone, from line 1 on.'],
  ];
  for (const [name, now, sentence] of sayings)
    it(name, async () => {
      const encode = (words: string): Uint8Array => new TextEncoder().encode(words);
      const comparison = await compareBytes(
        { bytes: encode(text(story)), path: 'story.txt' },
        { bytes: encode(now), path: 'story.txt' },
      );
      expect(comparison.sentence).to.equal(sentence);
      expectStyle(comparison.sentence);
    });
});

describe('words for amounts', () => {
  const lengths: [length: number, unit: LengthUnit, words: string][] = [
    [0.000_012, 'metres', '12 µm'],
    [0.0042, 'metres', '4.2 mm'],
    [0.25, 'metres', '250 mm'],
    [3, 'metres', '3.00 m'],
    [1, 'units', '1 unit'],
    [0.25, 'units', '0.25 units'],
    [52.8513, 'units', '52.9 units'],
    [12_345, 'units', '12,300 units'],
  ];
  for (const [length, unit, words] of lengths)
    it(`${length} ${unit}: ${words}`, () => expect(lengthText(length, unit)).to.equal(words));

  const shares: [share: number, words: string][] = [
    [0, '0 %'],
    [0.000_05, 'less than 0.01 %'],
    [0.0123, '1.23 %'],
    [0.5, '50.0 %'],
    [1, '100.0 %'],
  ];
  for (const [share, words] of shares)
    it(`a share of ${share}: ${words}`, () => expect(percentText(share)).to.equal(words));

  const factors: [factor: number, words: string][] = [
    [2, 'twice'],
    [2.001, 'twice'],
    [0.5, 'half'],
    [0.25, 'a quarter'],
    [3, 'three times'],
    [4, 'four times'],
    [1.3, '1.3 times'],
    [0.333, '0.333 times'],
    [100, '100 times'],
  ];
  for (const [factor, words] of factors)
    it(`${factor} as large: ${words}`, () => expect(timesText(factor)).to.equal(words));
});

describe('sentences of pictures that were made of one another', () => {
  const sayings: [relation: Parameters<typeof describeRelation>[0], words: string][] = [
    [{ nature: 'mirrored', how: 'left to right' }, 'The same picture, mirrored left to right.'],
    [{ nature: 'mirrored', how: 'turned by 90°' }, 'The same picture, turned by 90°.'],
    [{ nature: 'rescaled', factor: 2 }, 'The same picture, twice as large.'],
    [{ nature: 'rescaled', factor: 0.75 }, 'The same picture, 0.75 times as large.'],
    [{ nature: 'stretched', across: 1.3, down: 1 }, 'The same picture, stretched: 1.3 times as wide.'],
    [{ nature: 'stretched', across: 1, down: 0.5 }, 'The same picture, stretched: half as high.'],
    [
      { nature: 'stretched', across: 2, down: 1.5 },
      'The same picture, stretched: twice as wide and 1.5 times as high.',
    ],
    [
      { nature: 'bordered', wider: 'new', left: 4, top: 0, right: 4, bottom: 8 },
      'The same picture, borders added: 4 left, 0 above, 4 right, 8 below.',
    ],
    [
      { nature: 'bordered', wider: 'old', left: 1, top: 2, right: 3, bottom: 4 },
      'The same picture, borders cut off: 1 left, 2 above, 3 right, 4 below.',
    ],
    [{ nature: 'recoloured', gain: 1.2 }, 'The same picture in other colours.'],
  ];
  for (const [relation, words] of sayings)
    it(words, () => {
      expect(sentenceOf([describeRelation(relation)])).to.equal(words);
      expectStyle(words);
    });
});

describe('sentences of models', () => {
  const none: ModelDetail['bones'] = { added: [], gone: [], reparented: [], moved: [], renamed: [] };
  const facts = (more: Partial<ModelFacts> = {}): ModelFacts =>
    ({ triangles: 120, uvSets: 1, hasColours: false, ...more }) as ModelFacts;
  type Part = ModelDetail['parts'][number];
  const part = (name: string, status: Part['status'], greatestMetres: number | null = 0): Part => ({
    name,
    status,
    oldTriangles: 60,
    newTriangles: 60,
    greatestMetres,
  });
  const moved = (bone: string, metres: number, degrees: number) => ({ bone, metres, degrees });
  const surface = {
    meanMetres: 0.01,
    greatestMetres: 0.5,
    share: 0.125,
    at: [0, 0, 0],
    part: 'mast',
  } as const;
  const clip = {
    name: 'nod',
    status: 'changed',
    oldSeconds: 2,
    newSeconds: 2,
    greatestMetres: 0,
    bone: 'head',
    atSeconds: 1,
    others: [],
  } as unknown as ModelDetail['clips'][number];

  const say = (
    detail: Partial<ModelDetail>,
    more: Partial<Changes> = {},
    [old, now]: [ModelFacts, ModelFacts] = [facts(), facts()],
  ): string => {
    const { shape, others } = describeModel(
      {
        detail: {
          kind: 'model',
          lengths: 'metres',
          surface: null,
          parts: [],
          bones: none,
          nodes: none,
          placed: null,
          clips: [],
          ...detail,
        },
        isSameSurface: true,
        isClip: false,
        skipped: new Set(),
        unsaid: [],
        looks: [],
        materials: [],
        worn: [],
        overlap: [],
        said: [],
        unplaced: [0, 0],
        points: null,
        ...more,
      },
      [old, now],
    );
    return sentenceOf([...shape, ...others]);
  };
  const off = { isSameSurface: false };
  const placed = { scale: 1, offsetMetres: [0, 0, 0] as [number, number, number], isTurned: false };

  const sayings: [sentence: string, said: string][] = [
    ['The same shape.', say({})],
    ['The same shape in 480 triangles instead of 120.', say({}, {}, [facts(), facts({ triangles: 480 })])],
    [
      'The surface is up to 500 mm off (12.5 % of its size), at mast.',
      say({ surface: { ...surface, at: [0, 0, 0] } }, off),
    ],
    [
      'The surface is up to 0.5 units off (12.5 % of its size), at mast.',
      say({ surface: { ...surface, at: [0, 0, 0] }, lengths: 'units' }, off),
    ],
    [
      'All other parts are the same, part “flag” new.',
      say(
        {
          surface: { ...surface, at: [0, 0, 0] },
          parts: [part('flag', 'added', null), part('hull', 'same')],
        },
        off,
      ),
    ],
    [
      'All other parts are the same, parts “flag” and “rope” gone.',
      say(
        {
          surface: { ...surface, at: [0, 0, 0] },
          parts: [part('flag', 'gone', null), part('rope', 'gone', null), part('hull', 'same')],
        },
        off,
      ),
    ],
    [
      'The same shape, 3 parts new.',
      say({ parts: ['a', 'b', 'c'].map((name) => part(name, 'added', null)) }),
    ],
    ['The same shape, part “keel” renamed to “hull”.', say({ parts: [part('keel → hull', 'same')] })],
    [
      'The same shape, 2 parts renamed.',
      say({ parts: [part('keel → hull', 'same'), part('rod → mast', 'same')] }),
    ],
    ['The same shape, twice as large.', say({ placed: { ...placed, scale: 2 } }, off)],
    ['The same shape, moved by 3.00 m.', say({ placed: { ...placed, offsetMetres: [0, 3, 0] } }, off)],
    [
      'The same shape, half as large and moved by 40 units.',
      say({ placed: { ...placed, scale: 0.5, offsetMetres: [40, 0, 0] }, lengths: 'units' }, off),
    ],
    ['The same shape, mirrored along X.', say({ placed: { ...placed, mirrored: 'X' } }, off)],
    ['The same shape, turned by quarters.', say({ placed: { ...placed, isTurned: true } }, off)],
    ['The same shape, 1 UV set more.', say({}, {}, [facts(), facts({ uvSets: 2 })])],
    ['The same shape, 2 UV sets fewer.', say({}, {}, [facts({ uvSets: 2 }), facts({ uvSets: 0 })])],
    ['The same shape, with vertex colours now.', say({}, {}, [facts(), facts({ hasColours: true })])],
    ['The same shape, without vertex colours now.', say({}, {}, [facts({ hasColours: true }), facts()])],
    [
      'The same shape, STL says nothing of UVs.',
      say({}, { skipped: new Set(['UVs']), unsaid: ['STL says nothing of UVs'] }, [
        facts(),
        facts({ uvSets: 0 }),
      ]),
    ],
    ['The same shape, bone “tail” new.', say({ bones: { ...none, added: ['tail'] } })],
    ['The same shape, 5 bones gone.', say({ bones: { ...none, gone: [...'abcde'] } })],
    [
      'The same shape, bone “jaw” renamed to “chin”.',
      say({ bones: { ...none, renamed: [{ from: 'jaw', to: 'chin' }] } }),
    ],
    [
      'The same shape, bone jaw hangs on head instead of neck.',
      say({ bones: { ...none, reparented: [{ bone: 'jaw', from: 'neck', to: 'head' }] } }),
    ],
    [
      'The same shape, 2 bones moved, jaw by 20 mm.',
      say({ bones: { ...none, moved: [moved('jaw', 0.02, 0), moved('ear', 0.01, 0)] } }),
    ],
    [
      'The same shape, 1 node moved, lamp turned by 12°.',
      say({ nodes: { ...none, moved: [moved('lamp', 0, 12)] } }),
    ],
    ['The same shape, clip “nod” 2.00 s → 2.50 s.', say({ clips: [{ ...clip, newSeconds: 2.5 }] })],
    ['The same shape, clip “nod” new.', say({ clips: [{ ...clip, status: 'added' }] })],
    ['The same shape, clip 3 gone.', say({ clips: [{ ...clip, name: 'clip 3', status: 'gone' }] })],
    ['The same shape, clip “nod” renamed to “bow”.', say({ clips: [{ ...clip, name: 'nod → bow' }] })],
    [
      'The same shape, clip “nod”: head up to 30 mm elsewhere, at 1.00 s.',
      say({ clips: [{ ...clip, greatestMetres: 0.03 }] }),
    ],
    ['The same shape, 4 triangles nowhere instead of 0.', say({}, { unplaced: [0, 4] })],
    [
      'The same poses.',
      say({}, { ...off, isClip: true }, [facts({ triangles: 0 }), facts({ triangles: 0 })]),
    ],
    ['It has a surface now.', say({}, off, [facts({ triangles: 0 }), facts()])],
    ['It has no surface any more.', say({}, off, [facts(), facts({ triangles: 0 })])],
  ];
  for (const [sentence, found] of sayings)
    it(sentence, () => {
      expect(found).to.equal(sentence);
      expectStyle(found);
    });

  const looks: [look: LookDifference, words: string][] = [
    [
      { name: 'UVs', status: 'changed', share: 0.12, greatest: 0.25 },
      'UVs differ on 12.0 % of its triangles, by up to 0.25 of the picture',
    ],
    [
      { name: 'UV set 2', status: 'changed', share: 1, greatest: 0.01 },
      'UV set 2 differs on 100.0 % of its triangles, by up to 0.010 of the picture',
    ],
    [
      { name: 'normals', status: 'changed', share: 0.5, greatest: Math.SQRT2 },
      'normals differ on 50.0 % of its triangles, by up to 90°',
    ],
    [
      { name: 'weights of bones', status: 'changed', share: 0.02, greatest: 0.4 },
      'weights of bones differ on 2.00 % of its triangles, by up to 40.0 %',
    ],
    [
      { name: 'morph target smile', status: 'changed', share: 1, greatest: 0.004 },
      'morph target smile differs on 100.0 % of its triangles, by up to 4.0 mm',
    ],
    [{ name: 'morph target smile', status: 'added', share: 1, greatest: null }, 'morph target smile new'],
    [{ name: 'weights of bones', status: 'gone', share: 1, greatest: null }, 'weights of bones gone'],
  ];
  for (const [look, words] of looks) it(words, () => expect(describeLook(look, 'metres')).to.equal(words));

  it('of poses and points', () => {
    expect(describeMove(0.02, 90, 'metres')).to.equal('by 20 mm');
    expect(describeMove(0, 4.25, 'metres')).to.equal('turned by 4.3°');
    expect(describePose(clip, 'metres')).to.equal('');
    expect(
      describePose(
        { ...clip, others: [{ bone: 'jaw', what: 'turned', amount: 30, atSeconds: 0.5 }] },
        'metres',
      ),
    ).to.match(/^jaw turned by up to 30°, at (?:0\.50 s|500 ms)$/);
    expect(describePoints({ old: 3, new: 4, moved: 0, greatestMetres: 0 }, 'metres')).to.equal(
      '4 points instead of 3',
    );
    expect(describePoints({ old: 3, new: 3, moved: 1, greatestMetres: 0.5 }, 'units')).to.equal(
      '1 of 3 points moved, by up to 0.5 units',
    );
    expect(describePoints({ old: 3, new: 3, moved: 0, greatestMetres: 0 }, 'units')).to.equal('');
  });
});
