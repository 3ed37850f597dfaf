import { kindSchema, type Kind } from '../../contract/kinds.ts';

/**
 * Files of one base name in one folder, and which of these groups were joined, and why. In columns: a build of a million
 * has nearly as many groups.
 */
export class FamilyGroups {
  count = 0;
  private readonly bases: string[] = [];
  private readonly folders: string[] = [];
  private parents = new Int32Array(1024);
  private sizes = new Uint32Array(1024);
  /** A bit to each kind. */
  private kinds = new Uint16Array(1024);
  private readonly reasons = new Map<number, string>();
  private known: Map<string, number> | null = new Map();

  /** Adds a file to the group of its base and folder. @returns the group */
  add(base: string, folder: string, kind: Kind): number {
    const key = `${folder}\n${base}`;
    const before = this.known?.get(key);
    const group = before ?? this.make(base, folder);
    if (before === undefined) this.known?.set(key, group);
    this.take(group, kind);
    return group;
  }

  /** A group for one file, whatever its name. */
  addAlone(base: string, folder: string, kind: Kind): number {
    const group = this.make(base, folder);
    this.take(group, kind);
    return group;
  }

  /** All files are in: what finds groups by name is let go. */
  seal(): void {
    this.known = null;
  }

  base(group: number): string {
    return this.bases[group] ?? '';
  }

  folder(group: number): string {
    return this.folders[group] ?? '';
  }

  size(group: number): number {
    return this.sizes[group] ?? 0;
  }

  has(group: number, kind: Kind): boolean {
    return ((this.kinds[group] ?? 0) & bitOf(kind)) !== 0;
  }

  /** Whether it has files of these kinds and of no others. */
  hasOnly(group: number, kinds: readonly Kind[]): boolean {
    const allowed = kinds.reduce((bits, kind) => bits | bitOf(kind), 0);
    const there = this.kinds[group] ?? 0;
    return there !== 0 && (there & ~allowed) === 0;
  }

  /** The group that it was put to, or itself. */
  parent(group: number): number {
    return this.parents[group] ?? group;
  }

  /** The group at the end of the way. */
  top(group: number): number {
    let top = group;
    for (let parent = this.parent(top); parent !== top; parent = this.parent(top)) top = parent;
    return top;
  }

  /** Why it was put to its parent. */
  reason(group: number): string {
    return this.reasons.get(group) ?? '';
  }

  join(group: number, leader: number, reason: string): void {
    const top = this.top(leader);
    if (group === top) return;
    this.parents[group] = top;
    this.reasons.set(group, reason);
    this.kinds[top] = (this.kinds[top] ?? 0) | (this.kinds[group] ?? 0);
  }

  /** Groups of the same base, in the order in which they came. */
  byBase(): Iterable<number[]> {
    const first = new Map<string, number>();
    const several = new Map<string, number[]>();
    for (let group = 0; group < this.count; group++) {
      const base = this.base(group);
      const before = first.get(base);
      if (before === undefined) {
        first.set(base, group);
        continue;
      }
      const groups = several.get(base);
      if (groups) groups.push(group);
      else several.set(base, [before, group]);
    }
    return several.values();
  }

  private make(base: string, folder: string): number {
    const group = this.count++;
    if (group === this.parents.length) this.grow();
    this.bases.push(base);
    this.folders.push(folder);
    this.parents[group] = group;
    return group;
  }

  private take(group: number, kind: Kind): void {
    this.sizes[group] = (this.sizes[group] ?? 0) + 1;
    this.kinds[group] = (this.kinds[group] ?? 0) | bitOf(kind);
  }

  private grow(): void {
    const length = this.parents.length * 2;
    const parents = new Int32Array(length);
    parents.set(this.parents);
    this.parents = parents;
    const sizes = new Uint32Array(length);
    sizes.set(this.sizes);
    this.sizes = sizes;
    const kinds = new Uint16Array(length);
    kinds.set(this.kinds);
    this.kinds = kinds;
  }
}

function bitOf(kind: Kind): number {
  return 1 << kindSchema.options.indexOf(kind);
}
