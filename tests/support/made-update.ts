import { leavesOfBuild, repackedPaths } from '../../demo/mossline-ferry.ts';

export interface MadeUpdate {
  added: number;
  removed: number;
  changed: number;
  repacked: number;
  moved: number;
  copied: number;
  unchanged: number;
}

let made: Promise<MadeUpdate> | null = null;

/** What the generator of the demo did between its first two builds, counted from what it made and not from what was found. */
export function madeUpdate(): Promise<MadeUpdate> {
  return (made ??= count());
}

async function count(): Promise<MadeUpdate> {
  const [old, now] = await Promise.all([leavesOfBuild('0.1'), leavesOfBuild('0.2')]);
  const text = (bytes: Uint8Array): string => Buffer.from(bytes).toString('latin1');
  const paths = [...new Set([...old.keys(), ...now.keys()])];
  const isIn = (files: ReadonlyMap<string, Uint8Array>) => (path: string) => files.has(path);
  const both = paths.filter((path) => old.has(path) && now.has(path));
  const other = both.filter(
    (path) => text(old.get(path) ?? new Uint8Array()) !== text(now.get(path) ?? new Uint8Array()),
  );
  const repacked = other.filter((path) => repackedPaths.test(path)).length;
  const fresh = paths.filter((path) => isIn(now)(path) && !isIn(old)(path));
  const gone = paths.filter((path) => isIn(old)(path) && !isIn(now)(path));
  // Each content that is gone from one path can be found again at one other.
  const goneTexts = gone.map((path) => text(old.get(path) ?? new Uint8Array()));
  const oldTexts = new Set([...old.values()].map(text));
  let [moved, copied] = [0, 0];
  for (const path of fresh) {
    const content = text(now.get(path) ?? new Uint8Array());
    const at = goneTexts.indexOf(content);
    if (at >= 0) {
      goneTexts.splice(at, 1);
      moved++;
    } else if (oldTexts.has(content)) copied++;
  }
  return {
    added: fresh.length - moved - copied,
    removed: gone.length - moved,
    changed: other.length - repacked,
    repacked,
    moved,
    copied,
    unchanged: both.length - other.length,
  };
}
