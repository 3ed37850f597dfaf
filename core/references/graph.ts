import type { Mention } from '../kinds/mentions.ts';
import type { LinkRule } from '../../contract/references.ts';
import { resolve, type Places } from './resolve.ts';

/** What one file of a build says of others. */
export interface Mentioning {
  /** Number of its path. */
  number: number;
  mentions: readonly Mention[];
}

/** A link that a person accepted: it holds in later builds too. */
export interface AcceptedLink {
  from: string;
  text: string;
  target: string;
}

export interface Edge {
  from: number;
  to: number;
  rule: LinkRule;
  mention: Mention;
}

export interface MissingMention {
  from: number;
  mention: Mention;
}

/** One asset on the way from another. */
export interface Reached {
  number: number;
  /** Steps from where the way began. */
  depth: number;
  /** Number of the asset that it was reached from. */
  via: number;
  edge: Edge;
}

/** What names what in one build. */
export class ReferenceGraph {
  /** Edges by the number of who names. */
  private readonly outgoing = new Map<number, Edge[]>();
  private readonly incoming = new Map<number, Edge[]>();
  readonly missing: MissingMention[] = [];
  edgeCount = 0;

  constructor(
    private readonly places: Places,
    private readonly accepted: ReadonlyMap<string, string>,
    private readonly numberOf: (path: string) => number,
  ) {}

  private readonly known = new Map<string, ReturnType<typeof resolve>>();

  /** Takes in what one file says. */
  add({ number, mentions }: Mentioning): void {
    const from = this.places.index.path(number);
    const folder = from.slice(0, from.lastIndexOf('/') + 1);
    const reached = new Set<number>();
    for (const mention of mentions) {
      const found = this.acceptedTarget(from, mention.text) ?? this.resolveOnce(mention, folder, from);
      if (!found) {
        if (mention.sort === 'path') this.missing.push({ from: number, mention });
        continue;
      }
      if (found.target === number || reached.has(found.target)) continue;
      reached.add(found.target);
      const edge: Edge = { from: number, to: found.target, rule: found.rule, mention };
      push(this.outgoing, number, edge);
      push(this.incoming, found.target, edge);
      this.edgeCount++;
    }
  }

  needs(number: number): readonly Edge[] {
    return this.outgoing.get(number) ?? [];
  }

  neededBy(number: number): readonly Edge[] {
    return this.incoming.get(number) ?? [];
  }

  /**
   * All that is needed, or that needs, over any number of steps; nearest first, each once.
   * @param most where to stop
   */
  reach(
    number: number,
    direction: 'needs' | 'neededBy',
    most: number,
  ): { reached: Reached[]; isCut: boolean } {
    const reached: Reached[] = [];
    const known = new Set([number]);
    let ring = [number];
    for (let depth = 1; ring.length > 0; depth++) {
      const next: number[] = [];
      for (const via of ring)
        for (const edge of direction === 'needs' ? this.needs(via) : this.neededBy(via)) {
          const other = direction === 'needs' ? edge.to : edge.from;
          if (known.has(other)) continue;
          if (reached.length >= most) return { reached, isCut: true };
          known.add(other);
          reached.push({ number: other, depth, via, edge });
          next.push(other);
        }
      ring = next;
    }
    return { reached, isCut: false };
  }

  isNamed(number: number): boolean {
    return this.incoming.has(number);
  }

  private acceptedTarget(from: string, text: string): { target: number; rule: LinkRule } | null {
    const target = this.accepted.get(acceptedKey(from, text));
    if (target === undefined) return null;
    const number = this.numberOf(target);
    return number >= 0 && this.places.isThere(number) ? { target: number, rule: 'accepted' } : null;
  }

  /** Files of one folder name the same things again and again. */
  private resolveOnce(mention: Mention, folder: string, from: string): ReturnType<typeof resolve> {
    const key = `${mention.sort} ${mention.where} ${folder} ${mention.text}`;
    const before = this.known.get(key);
    // A file is never its own target, so what another of its folder means may not be what it means.
    if (before === undefined || (before && this.places.index.path(before.target) === from)) {
      const found = resolve(this.places, mention, from);
      if (before === undefined) this.known.set(key, found);
      return found;
    }
    return before;
  }
}

export function acceptedKey(from: string, text: string): string {
  return `${from}\n${text}`;
}

function push(map: Map<number, Edge[]>, number: number, edge: Edge): void {
  const edges = map.get(number);
  if (edges) edges.push(edge);
  else map.set(number, [edge]);
}
