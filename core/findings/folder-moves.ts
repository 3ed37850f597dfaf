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

/**
 * Whole folders among what moved: every moved file tells from which folder to which one it went, once the end that its
 * paths share is taken off; a folder of which all that is gone went to one other folder is told as one. The highest ones.
 * @param findings all of a span: a folder from which something was removed, too, did not move as a whole
 */
export function folderMoves(findings: readonly PlainFinding[]): FolderMove[] {
  // For each folder of the older build: where its files went, and how many of them.
  const targets = new Map<string, { to: string | null; files: number }>();
  for (const { status, path, oldPath } of findings) {
    const left = status === 'removed' ? path : isMove(status, path, oldPath) ? oldPath : null;
    if (left === null) continue;
    const went = status === 'removed' ? null : path;
    for (let slash = left.lastIndexOf('/'); slash > 0; slash = left.lastIndexOf('/', slash - 1)) {
      const from = left.slice(0, slash);
      const to = went?.endsWith(left.slice(slash)) ? went.slice(0, went.length - (left.length - slash)) : null;
      const target = targets.get(from);
      if (!target) targets.set(from, { to, files: 1 });
      else {
        if (target.to !== to) target.to = null;
        target.files++;
      }
    }
  }
  const moves: FolderMove[] = [];
  for (const [from, { to, files }] of targets) {
    if (to === null || to === '' || files < fewestFiles || to === from) continue;
    // Told by a folder above already.
    const above = from.slice(0, from.lastIndexOf('/'));
    if (above !== '' && targets.get(above)?.to !== null && targets.get(above)?.to !== undefined && (targets.get(above)?.files ?? 0) >= files && targets.get(above)?.to !== above) continue;
    moves.push({ from, to, files });
  }
  return moves.sort((a, b) => b.files - a.files || compare(a.from, b.from));
} // prettier-ignore

function isMove(status: PlainFinding['status'], path: string, oldPath: string | null): oldPath is string {
  return (status === 'moved' || status === 'repacked') && oldPath !== null && oldPath !== path;
}

/** Finds of which move a file is a part; null of none. */
export function moveFinder(moves: readonly FolderMove[]): (finding: PlainFinding) => FolderMove | null {
  const byFolder = new Map(moves.map((move) => [move.from, move]));
  return ({ status, path, oldPath }) => {
    if (!isMove(status, path, oldPath)) return null;
    for (let slash = oldPath.lastIndexOf('/'); slash > 0; slash = oldPath.lastIndexOf('/', slash - 1)) {
      const move = byFolder.get(oldPath.slice(0, slash));
      if (move && path === move.to + oldPath.slice(slash)) return move;
    }
    return null;
  };
}
