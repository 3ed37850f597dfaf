import { expect } from 'chai';
import { makePathTables } from '../../../core/search/path-tables.ts';
import { hashAt } from './text-tables.ts';
import { mergeSpans } from './merge-spans.ts';
import { SpanColumns, type SpanRow, type Spans } from './span-columns.ts';

const row = (path: string, first: number, last: number, more: Partial<SpanRow> = {}): SpanRow => ({
  ...{
    path,
    first,
    last,
    format: 'png',
    size: first * 100,
    hash: Buffer.alloc(32, first),
    hasPreview: 1,
    figures: null,
  },
  ...more,
});
const spansOf = (...rows: SpanRow[]): Spans => {
  const columns = new SpanColumns();
  for (const one of rows) columns.add(one);
  return columns.finish();
};
const listed = ({ paths, states, hashes, previews }: Spans): unknown[] =>
  Array.from(paths.begin, (begin, number) => [
    new TextDecoder().decode(paths.text.subarray(begin, paths.end[number])),
    ...Array.from(states.first.subarray(states.spanAt[number], states.spanAt[number + 1]), (first, at) => {
      const span = (states.spanAt[number] ?? 0) + at;
      return [
        first,
        states.last[span],
        states.figures.size?.[span],
        hashAt(hashes, span).slice(0, 2),
        previews[span],
      ];
    }),
  ]);

describe('Spans of paths', () => {
  it('come in any order and stand in that of paths and builds; of two of one build the later counts', () => {
    const spans = spansOf(
      row('wing.png', 5, 9),
      row('arm.png', 2, 4),
      row('wing.png', 1, 4),
      row('arm.png', 2, 3, { size: 7 }),
      row('leg.png', 3, 9, { hash: null, size: null, hasPreview: 0 }),
    );
    expect(listed(spans)).to.deep.equal([
      ['arm.png', [2, 3, 7, '02', 1]],
      ['leg.png', [3, 9, NaN, '00', 0]],
      ['wing.png', [1, 4, 100, '01', 1], [5, 9, 500, '05', 1]],
    ]);
  });

  it('have the figures of their facts, and none where there are none', () => {
    const { states } = spansOf(
      row('a.glb', 1, 9, { figures: '12,34,,,,,,,,' }),
      row('b.wav', 1, 9, { figures: ',,,,,1.5,,,,' }),
      row('c.bin', 1, 9),
    );
    expect(
      Object.fromEntries(Object.entries(states.figures).map(([name, values]) => [name, [...values]])),
    ).to.deep.equal({
      size: [100, 100, 100],
      triangles: [12, NaN, NaN],
      vertices: [34, NaN, NaN],
      seconds: [NaN, 1.5, NaN],
    });
  });

  it('go into tables: what is new in between, what has changed in its place', () => {
    const first = spansOf(row('b.png', 1, 9), row('d.png', 1, 9, { figures: ',,,64,32,,,,,' }));
    const known = { ...first, paths: makePathTables(['b.png', 'd.png']) };
    const merged = mergeSpans(
      known,
      spansOf(
        row('a.png', 2, 9),
        row('b.png', 1, 1),
        row('b.png', 2, 9),
        row('c.wav', 2, 9, { figures: ',,,,,3,,,,' }),
      ),
    );
    expect(listed(merged)).to.deep.equal([
      ['a.png', [2, 9, 200, '02', 1]],
      ['b.png', [1, 1, 100, '01', 1], [2, 9, 200, '02', 1]],
      ['c.wav', [2, 9, 200, '02', 1]],
      ['d.png', [1, 9, 100, '01', 1]],
    ]);
    expect([...(merged.states.figures.width ?? [])]).to.deep.equal([NaN, NaN, NaN, NaN, 64]);
    expect([...(merged.states.figures.seconds ?? [])]).to.deep.equal([NaN, NaN, NaN, 3, NaN]);
    // What others still look at stays as it was.
    expect(listed(first)).to.deep.equal([
      ['b.png', [1, 9, 100, '01', 1]],
      ['d.png', [1, 9, 100, '01', 1]],
    ]);
    expect(listed(mergeSpans(known, spansOf()))).to.deep.equal(listed(first));
  });
});
