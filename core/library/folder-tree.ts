import { kindSchema, type Kind } from '../../contract/kinds.ts';
import { byFormatId } from '../kinds/formats.ts';
import type { PlacedTexts } from '../search/path-column.ts';
import { changeOf, type StateTables } from '../search/search.ts';

/** What lies in a folder or a container and all below it. */
export interface FolderCounts {
  files: number;
  bytes: number;
  /** Files that the build before lacked, and those whose content it had otherwise. */
  fresh: number;
  changed: number;
  /** By kind, in the order of the table of kinds. */
  kinds: Uint32Array;
  /** Models with a skeleton, and clips inside models. */
  skeletons: number;
}

export interface TreeFolder extends FolderCounts {
  name: string;
  /** Without the mark of a container. */
  path: string;
  isContainer: boolean;
  folders: number[];
  /** Numbers of the paths that lie in it directly, in order. */
  assets: number[];
}

const kinds: readonly Kind[] = kindSchema.options;
const kindOfFormat = byFormatId(({ kind }) => kinds.indexOf(kind));
const slash = 47;
const exclamation = 33;

/**
 * The folders of one build with what is in them, in one pass over its sorted paths.
 * @param paths in order
 * @param spanOf number of a path's span in the build, or below 0 where the build has none
 * @param isContainer whether a path is that of an archive
 */
export class FolderTree {
  readonly folders: TreeFolder[] = [];
  private readonly byPath = new Map<string, number>();

  constructor(
    paths: PlacedTexts,
    states: StateTables,
    sequence: number,
    spanOf: (number: number) => number,
    isContainer: (path: string) => boolean,
  ) {
    const { text } = paths;
    const decoder = new TextDecoder();
    this.folders.push(emptyFolder('', '', false));
    this.byPath.set('', 0);
    // Ends of the segments of the last path's folder, and the folders that they lead to.
    const stack = [0];
    const ends = [0];
    let before = 0;
    for (let number = 0; number < paths.begin.length; number++) {
      const span = spanOf(number);
      if (span < 0) continue;
      const begin = paths.begin[number] ?? 0;
      const end = paths.end[number] ?? 0;
      let last = end - 1;
      while (last >= begin && text[last] !== slash) last--;
      const length = last < begin ? 0 : last - begin + 1;
      // How much of the folder is that of the path before.
      let same = 0;
      const most = Math.min(length, ends.at(-1) ?? 0);
      while (same < most && text[begin + same] === text[before + same]) same++;
      while ((ends.at(-1) ?? 0) > same) {
        ends.pop();
        stack.pop();
      }
      before = begin;
      for (let at = ends.at(-1) ?? 0; at < length; at++) {
        if (text[begin + at] !== slash) continue;
        const whole = decoder.decode(text.slice(begin, begin + at));
        const bare = whole.slice(0, -1);
        const isArchive = text[begin + at - 1] === exclamation && isContainer(bare);
        const path = isArchive ? bare : whole;
        const parent = stack.at(-1) ?? 0;
        const folder = this.folders.length;
        const nameAt = ends.at(-1) ?? 0;
        const name = decoder.decode(text.slice(begin + nameAt, begin + at - (isArchive ? 1 : 0)));
        this.folders.push(emptyFolder(name, path, isArchive));
        this.byPath.set(path, folder);
        this.folders[parent]?.folders.push(folder);
        stack.push(folder);
        ends.push(at + 1);
      }
      this.count(stack, number, span, states, sequence);
    }
  }

  find(path: string): TreeFolder | null {
    const folder = this.byPath.get(path);
    return folder === undefined ? null : (this.folders[folder] ?? null);
  }

  private count(
    stack: readonly number[],
    number: number,
    span: number,
    states: StateTables,
    sequence: number,
  ): void {
    const size = states.figures.size?.[span] ?? NaN;
    const kind = kindOfFormat[states.format[span] ?? 0] ?? 0;
    const change = changeOf(states, number, span, sequence);
    const hasSkeleton = kinds[kind] === 'model' && (states.figures.bones?.[span] ?? 0) > 0;
    for (const at of stack) {
      const folder = this.folders[at];
      if (!folder) continue;
      folder.files++;
      if (!Number.isNaN(size)) folder.bytes += size;
      folder.kinds[kind] = (folder.kinds[kind] ?? 0) + 1;
      if (change === 'changed') folder.changed++;
      else if (change === 'new') folder.fresh++;
      if (hasSkeleton) folder.skeletons++;
    }
    this.folders[stack.at(-1) ?? 0]?.assets.push(number);
  }
}

function emptyFolder(name: string, path: string, isContainer: boolean): TreeFolder {
  return {
    name,
    path,
    isContainer,
    folders: [],
    assets: [],
    files: 0,
    bytes: 0,
    fresh: 0,
    changed: 0,
    kinds: new Uint32Array(kinds.length),
    skeletons: 0,
  };
}

/** Counts by kind, of the kinds that are there. */
export function countsByKind({ kinds: counts }: FolderCounts): Partial<Record<Kind, number>> {
  return Object.fromEntries(
    kinds.flatMap((kind, at) => ((counts[at] ?? 0) > 0 ? [[kind, counts[at] ?? 0]] : [])),
  );
}
