import { bareName, ElementList, elementOrder, elementText, spaceMark } from './elements.ts';
import { changeOf, fieldOf, isObject, type DataChange, type DataComparison } from './data-change.ts';
import { DataIds } from './data-ids.ts';
import { compareLists } from './list-changes.ts';
import { matchRenamed } from './renamed-keys.ts';
import { shownPair, shownValue } from './shown-value.ts';

/**
 * The differences of two data, as few as tell all. What is called otherwise and is the same is renamed, items of lists are matched
 * by what names them, else by the shortest script of edits.
 * @throws RangeError where they are nested deeper than calls may be
 */
export function dataChanges(old: unknown, now: unknown): DataChange[] {
  const changes: DataChange[] = [];
  const comparison: DataComparison = {
    ids: new DataIds(),
    changes,
    compare: (before, after, path) => compareData(before, after, path, comparison),
  };
  comparison.compare(old, now, '');
  return joinRenamed(pairElements(changes));
}

/** Elements come and go one by one, whatever others of their name there are. */
function piecesOf(value: unknown): { piece: unknown; name: string }[] {
  if (!(value instanceof ElementList)) return [{ piece: value, name: '' }];
  return value.map((piece, at) => ({ piece, name: value.length === 1 ? '' : `[${at + 1}]` }));
}

/** One of several elements that is called otherwise: it went from a list, and came in another one beside that. */
function pairElements(changes: readonly DataChange[]): DataChange[] {
  const gone = new Map<string, DataChange[]>();
  const placeOf = ({ id, key }: DataChange): string => `${id ?? ''} ${parentOf(key)}`;
  for (const change of changes) {
    // Of a single value that it is equal says nothing.
    if (change.status !== 'gone' || change.id === undefined || change.values < 2) continue;
    const list = gone.get(placeOf(change));
    if (list) list.push(change);
    else gone.set(placeOf(change), [change]);
  }
  const taken = new Set<DataChange>();
  const renamed = new Map<DataChange, DataChange>();
  for (const added of changes) {
    const before = added.status === 'added' ? gone.get(placeOf(added))?.shift() : undefined;
    if (!before) continue;
    taken.add(before);
    renamed.set(added, changeOf('renamed', added.key, fieldOf(before.key), fieldOf(added.key), 1));
  }
  return changes.flatMap((change) => (taken.has(change) ? [] : [renamed.get(change) ?? change]));
}

function parentOf(key: string): string {
  const bare = key.replace(/\[[^\]]*\]$/, '');
  return bare.slice(0, Math.max(0, bare.lastIndexOf('.')));
}

function compareData(old: unknown, now: unknown, path: string, comparison: DataComparison): void {
  const { ids, changes } = comparison;
  if (ids.of(old) === ids.of(now)) return;
  if (Array.isArray(old) && Array.isArray(now)) {
    compareLists(old as unknown[], now as unknown[], path, comparison);
    return;
  }
  if (isObject(old) && isObject(now)) {
    compareObjects(old, now, path, comparison);
    return;
  }
  const [before, after] = shownPair(old, now);
  changes.push(changeOf('changed', path, before, after, Math.max(ids.values(old), ids.values(now))));
}

function compareObjects(
  old: Record<string, unknown>,
  now: Record<string, unknown>,
  path: string,
  comparison: DataComparison,
): void {
  const { ids, changes, compare } = comparison;
  const renamed = matchRenamed(old, now, ids);
  const taken = new Set(renamed.values());
  for (const [key, value] of Object.entries(now)) {
    if (key === elementOrder) continue;
    const at = keyPath(path, key);
    if (Object.hasOwn(old, key)) {
      compare(old[key], value, at);
      continue;
    }
    const before = renamed.get(key);
    if (before === undefined) {
      changes.push(
        ...piecesOf(value).map(({ piece, name }) => ({
          ...changeOf('added', `${at}${name}`, '', shownValue(piece), ids.values(piece)),
          id: ids.of(piece),
        })),
      );
      continue;
    }
    const isSpace = bareName(before) === bareName(key);
    changes.push(
      isSpace
        ? { ...changeOf('renamed', at, spaceOf(before), spaceOf(key), 1), field: 'namespace' }
        : changeOf('renamed', at, bareName(before), bareName(key), 1),
    );
    compare(old[before], value, at);
  }
  for (const [key, value] of Object.entries(old))
    if (key !== elementOrder && !Object.hasOwn(now, key) && !taken.has(key))
      changes.push(
        ...piecesOf(value).map(({ piece, name }) => ({
          ...changeOf('gone', `${keyPath(path, key)}${name}`, shownValue(piece), '', ids.values(piece)),
          id: ids.of(piece),
        })),
      );
  if (areShuffled(old[elementOrder], now[elementOrder]))
    changes.push({ ...changeOf('moved', path, '', '', 1), field: 'elements' });
}

/** Whether elements of several names stand in another order among one another. */
function areShuffled(old: unknown, now: unknown): boolean {
  if (typeof old !== 'string' || typeof now !== 'string' || old === now) return false;
  const sorted = (order: string): string => order.split('\n').sort().join('\n');
  return sorted(old) === sorted(now);
}

/** What an element holds beside attributes and others is its own. */
export function keyPath(path: string, key: string): string {
  const name = bareName(key);
  if (name === elementText) return path;
  return path === '' ? name : `${path}.${name}`;
}

function spaceOf(name: string): string {
  return name.slice(bareName(name).length + spaceMark.length);
}

/** The same key that is called otherwise in many items is told once. */
function joinRenamed(changes: readonly DataChange[]): DataChange[] {
  const first = new Map<string, DataChange>();
  return changes.flatMap((change) => {
    const isSpace = change.field === 'namespace';
    if (change.status !== 'renamed' || (!isSpace && !change.key.includes('['))) return [change];
    const key = `${isSpace ? '' : change.key.replace(/\[[^\]]*\]/g, '[]')}\n${change.old}`;
    const known = first.get(key);
    if (known) {
      known.values += change.values;
      return [];
    }
    const copy = { ...change };
    first.set(key, copy);
    return [copy];
  });
}
