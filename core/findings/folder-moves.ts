import type { PlainFinding } from './find.ts';
import { compare } from './pair-paths.ts';

/** A folder that moved with all that is in it. */
export interface FolderMove {
  from: string;
  to: string;
  files: number;
}

/** Fewer are as well told one by one. */
const fewestFiles = 2;

/** Where all that left a folder went; by the folder. */
export type FolderTargets = ReadonlyMap<string, { to: string; files: number }>;

/**
 * Folders that may have moved: every moved file tells from which folder to which one it went, once the end that its paths
 * share is taken off. A folder is left out where something was removed from it, or went elsewhere.
 */
export function folderTargets(findings: readonly PlainFinding[]): FolderTargets {
  const targets = new Map<string, { to: string | null; files: number }>();
  for (const { status, path, oldPath } of findings) {
    const left = status === 'removed' ? path : isMove(status, path, oldPath) ? oldPath : null;
    if (left === null) continue;
    for (const from of foldersOf(left)) {
      const end = left.slice(from.length);
      const to = status !== 'removed' && path.endsWith(end) ? path.slice(0, path.length - end.length) : null;
      const target = targets.get(from);
      if (!target) targets.set(from, { to, files: 1 });
      else {
        if (target.to !== to) target.to = null;
        target.files++;
      }
    }
  }
  const found = new Map<string, { to: string; files: number }>();
  for (const [from, { to, files }] of targets)
    if (to && to !== from && files >= fewestFiles) found.set(from, { to, files });
  return found;
}

/** Folders that moved as a whole, the highest of each. @param kept those of which something is where it was */
export function wholeMoves(targets: FolderTargets, kept: ReadonlySet<string>): FolderMove[] {
  const moves: FolderMove[] = [];
  for (const [from, { to, files }] of targets) {
    if (kept.has(from)) continue;
    // What lies in a folder that moved moved with it.
    const isTold = foldersOf(from).some((above) => targets.has(above) && !kept.has(above));
    if (!isTold) moves.push({ from, to, files });
  }
  return moves.sort((a, b) => b.files - a.files || compare(a.from, b.from));
}

/** Folders and containers that a path lies in, the innermost first. */
export function foldersOf(path: string): string[] {
  const folders: string[] = [];
  for (let slash = path.lastIndexOf('/'); slash > 0; slash = path.lastIndexOf('/', slash - 1))
    folders.push(path.slice(0, slash));
  return folders;
}

function isMove(status: PlainFinding['status'], path: string, oldPath: string | null): oldPath is string {
  return (status === 'moved' || status === 'repacked') && oldPath !== null && oldPath !== path;
}

/** Finds of which move a file is a part; null of none. */
export function moveFinder(moves: readonly FolderMove[]): (finding: PlainFinding) => FolderMove | null {
  const byFolder = new Map(moves.map((move) => [move.from, move]));
  return ({ status, path, oldPath }) => {
    if (!isMove(status, path, oldPath)) return null;
    for (const from of foldersOf(oldPath)) {
      const move = byFolder.get(from);
      if (move && path === move.to + oldPath.slice(from.length)) return move;
    }
    return null;
  };
}
