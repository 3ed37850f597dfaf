import type { FindingsPage } from '../../../contract/findings.ts';
import type { PassState } from '../../../contract/pass.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { LRUCache } from 'lru-cache';
import type { SpanView } from './span-view.ts';

const keptLists = 8;

/**
 * What every page of a view is made of, gathered once: of an update in which all files changed, going through all of it
 * for each page would hold up everybody else.
 */
class ViewIndex {
  /** Where a path's finding stands among the view's. */
  readonly placeOf: ReadonlyMap<string, number>;
  private readonly view: SpanView;
  private readonly counts = new Map<boolean, FindingsPage['kinds']>();
  private readonly lists = new LRUCache<string, PlainFinding[]>({ max: keptLists });

  constructor(view: SpanView) {
    this.view = view;
    this.placeOf = new Map(view.findings.map(({ path }, at) => [path, at]));
  }

  /** Findings by kind, with what is folded away or without. */
  kinds(withNoise: boolean): FindingsPage['kinds'] {
    const known = this.counts.get(withNoise);
    if (known) return known;
    const kinds: FindingsPage['kinds'] = {};
    for (const [at, { kind }] of this.view.findings.entries())
      if (this.isShown(at, withNoise)) kinds[kind] = (kinds[kind] ?? 0) + 1;
    this.counts.set(withNoise, kinds);
    return kinds;
  }

  /** Findings by mark: of what nobody said anything about, all is open. */
  marks(withNoise: boolean, states: ReadonlyMap<string, PassState>): FindingsPage['marks'] {
    const marks = { open: 0, kept: 0, aside: 0, done: 0 };
    for (const count of Object.values(this.kinds(withNoise))) marks.open += count;
    for (const [path, { mark }] of states) {
      const at = this.placeOf.get(path);
      if (at === undefined || !this.isShown(at, withNoise)) continue;
      marks.open--;
      marks[mark]++;
    }
    return marks;
  }

  /** A list that was asked for not long ago, made once. */
  listed(key: string, make: () => PlainFinding[]): PlainFinding[] {
    const list = this.lists.get(key) ?? make();
    this.lists.set(key, list);
    return list;
  }

  private isShown(at: number, withNoise: boolean): boolean {
    return withNoise || this.view.ruleOf[at] === -1;
  }
}

const indexes = new WeakMap<SpanView, ViewIndex>();

/** The index of a view, made when it is first asked for. */
export function indexOf(view: SpanView): ViewIndex {
  const known = indexes.get(view) ?? new ViewIndex(view);
  indexes.set(view, known);
  return known;
}
