import { expect } from 'chai';
import { noPassState, type Mark, type PassState } from '../../../contract/pass.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import type { SpanView } from './span-view.ts';
import { indexOf } from './view-index.ts';

const finding = (path: string, kind: PlainFinding['kind']): PlainFinding =>
  ({ path, kind, status: 'changed' }) as PlainFinding;

/** Two models of which one is folded away, a picture and a sound. */
const view = {
  findings: [
    finding('a.glb', 'model'),
    finding('a_l1.glb', 'model'),
    finding('b.png', 'picture'),
    finding('c.wav', 'sound'),
  ],
  ruleOf: Int16Array.of(-1, 0, -1, -1),
} as unknown as SpanView;

const marked = (marks: Record<string, Mark>): Map<string, PassState> =>
  new Map(Object.entries(marks).map(([path, mark]) => [path, { ...noPassState, mark }]));

describe('the index of a view', () => {
  it('counts kinds and marks of what is shown, and of all', () => {
    const index = indexOf(view);
    expect(index.kinds(false)).to.deep.equal({ model: 1, picture: 1, sound: 1 });
    expect(index.kinds(true)).to.deep.equal({ model: 2, picture: 1, sound: 1 });
    const states = marked({
      'a.glb': 'kept',
      'a_l1.glb': 'aside',
      'c.wav': 'open',
      'of another span.png': 'done',
    });
    expect(index.marks(false, states)).to.deep.equal({ open: 2, kept: 1, aside: 0, done: 0 });
    expect(index.marks(true, states)).to.deep.equal({ open: 2, kept: 1, aside: 1, done: 0 });
    expect(index.marks(false, marked({}))).to.deep.equal({ open: 3, kept: 0, aside: 0, done: 0 });
  });

  it('is made once for a view, and a list once for what was asked', () => {
    expect(indexOf(view)).to.equal(indexOf(view));
    let made = 0;
    const list = (key: string): PlainFinding[] => indexOf(view).listed(key, () => (made++, []));
    expect(list('by size')).to.equal(list('by size'));
    for (let other = 0; other < 8; other++) list(`other ${other}`);
    expect(made).to.equal(9);
    list('by size');
    expect(made).to.equal(10);
  });
});
