/**
 * Why these paths cannot lie in one folder: two are the same, or one is a file where another needs a folder.
 * @returns null where they can
 */
export function findPathClash(paths: readonly string[]): string | null {
  const files = new Set<string>();
  for (const path of paths) {
    if (files.has(path)) return `two files are named ${path}`;
    files.add(path);
  }
  for (const path of paths)
    for (let at = path.indexOf('/'); at >= 0; at = path.indexOf('/', at + 1))
      if (files.has(path.slice(0, at))) return `${path.slice(0, at)} is a file, and ${path} lies in it`;
  return null;
}
