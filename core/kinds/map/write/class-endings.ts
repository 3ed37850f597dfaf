import { plainName, uniqueName } from '../../file-names.ts';

/** What the scene of each class is called behind the map's stem: a file of its own, told apart whatever the size of letters. */
export function classEndings(classes: Iterable<string>): Map<string, string> {
  const used = new Set<string>();
  return new Map(
    [...classes].sort().map((name) => [name, `.classes/${uniqueName(plainName(name) || 'class', used)}.glb`]),
  );
}
