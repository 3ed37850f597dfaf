import { compileGlob, type Matches } from '../globs.ts';

/**
 * What of a source is brought in, as globs over the paths of folders, containers and assets. A glob without a slash counts
 * in every folder; one that names a folder or a container counts for all that is in it.
 */
export interface ChoiceGlobs {
  /** Nothing but what these name; everything where there are none. */
  only: readonly string[];
  /** Not what these name, whatever `only` says. */
  without: readonly string[];
}

export const wholeChoice: ChoiceGlobs = { only: [], without: [] };

/** Decides path by path. Folders that were asked for before are remembered. */
export class Choice {
  readonly isWhole: boolean;
  private readonly only: Matches | null;
  private readonly without: Matches;
  private readonly onTheWay: Matches;
  private readonly leftOutFolders = new Map<string, boolean>();

  /** @throws RangeError where a glob cannot be understood */
  constructor({ only, without }: ChoiceGlobs) {
    this.isWhole = only.length + without.length === 0;
    this.only = only.length > 0 ? compile(only) : null;
    this.without = compile(without);
    this.onTheWay = compile(only.flatMap(prefixes));
  }

  /** Whether the path itself is left out: by a glob for it, or for something that it lies in. */
  isLeftOut(path: string): boolean {
    if (this.isWhole) return false;
    return this.nameOut(path) || (this.only !== null && !this.isNamed(path));
  }

  /** Whether a folder or container is to be gone through: it is wanted, or something in it may be. */
  isOpened(path: string): boolean {
    if (this.isWhole) return true;
    if (this.nameOut(path)) return false;
    return this.only === null || this.isNamed(path) || this.onTheWay(path);
  }

  private nameOut(path: string): boolean {
    if (this.without(path)) return true;
    const parent = parentOf(path);
    if (parent === null) return false;
    const known = this.leftOutFolders.get(parent);
    if (known !== undefined) return known;
    const isOut = this.nameOut(parent);
    if (this.leftOutFolders.size > 100_000) this.leftOutFolders.clear();
    this.leftOutFolders.set(parent, isOut);
    return isOut;
  }

  private isNamed(path: string): boolean {
    for (let at: string | null = path; at !== null; at = parentOf(at)) if (this.only?.(at)) return true;
    return false;
  }
}

/** The folder or container that a path lies in: `a.zip!/b/c` lies in `a.zip!/b`, and that in `a.zip`. */
export function parentOf(path: string): string | null {
  const slash = path.lastIndexOf('/');
  if (slash <= 0) return null;
  return path[slash - 1] === '!' ? path.slice(0, slash - 1) : path.slice(0, slash);
}

/** A glob that names this path and nothing else. */
export function globOf(path: string): string {
  const escaped = path.replace(/[\\*?[\]{}()!+@|^$]/g, '\\$&');
  return path.includes('/') ? escaped : `/${escaped}`;
}

function compile(globs: readonly string[]): Matches {
  if (globs.length === 0) return () => false;
  const matchers = globs.map((glob) => compileGlob(anchored(glob)));
  return (path) => matchers.some((matches) => matches(path));
}

/** A leading slash means the root; a glob without any counts in every folder. */
function anchored(glob: string): string {
  const trimmed = glob.trim().replace(/\/+$/, '').replace(/!$/, '');
  if (trimmed.startsWith('/')) return trimmed.slice(1);
  return trimmed.includes('/') ? trimmed : `**/${trimmed}`;
}

/** `a/*.zip!/b/**` leads through `a` and `a/*.zip`. */
function prefixes(glob: string): string[] {
  const parts = anchored(glob).split('/');
  return parts.slice(0, -1).map(
    (_, index) =>
      `/${parts
        .slice(0, index + 1)
        .join('/')
        .replace(/!$/, '')}`,
  );
}
