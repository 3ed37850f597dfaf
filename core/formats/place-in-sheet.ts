import { isMap, isScalar, LineCounter, parseDocument, type Document } from 'yaml';

interface Ranged {
  range?: [number, number, number] | null;
}

/** Where a field stands in a sheet by the names that lead to it, wherever these are; the nearest that is there, or 0. */
export function offsetOfNames(document: Document, names: readonly string[]): number {
  const starts = [['root'], ['types'], ['text', 'lines'], ['result'], []];
  for (const start of starts)
    for (let length = names.length; length > 0; length--) {
      const node = document.getIn([...start, ...names.slice(0, length)], true) as Ranged | undefined;
      if (node?.range) return node.range[0];
    }
  return 0;
}

/**
 * The line of a sheet, from 1, that says a field.
 * @param where as errors name it: `parts[3].vertices.normal`. A field of a type stands where the type is described
 * @returns null where it says none of the names
 */
export function placeInSheet(text: string, where: string): number | null {
  const names = where.split(/\.|\[\d+\]\.?/).filter((name) => name !== '');
  if (names.length === 0) return null;
  const lines = new LineCounter();
  const document = parseDocument(text, { lineCounter: lines, uniqueKeys: false });
  const last = names.at(-1) as string;
  const found = [['root'], ['text', 'lines'], ['result']].map((start) => [...start, ...names]);
  for (const path of found) {
    const line = lineOfKey(document, path, lines);
    if (line !== null) return line;
  }
  const types: unknown = document.get('types', true);
  if (isMap(types))
    for (const { key } of types.items) {
      const line = isScalar(key) ? lineOfKey(document, ['types', String(key.value), last], lines) : null;
      if (line !== null) return line;
    }
  const offset = offsetOfNames(document, names);
  return offset === 0 ? null : lines.linePos(offset).line;
}

function lineOfKey(document: Document, path: readonly string[], lines: LineCounter): number | null {
  const holder: unknown = document.getIn(path.slice(0, -1), true);
  if (!isMap(holder)) return null;
  const item = holder.items.find(({ key }) => isScalar(key) && String(key.value) === path.at(-1));
  const range = item && isScalar(item.key) ? item.key.range : null;
  return range ? lines.linePos(range[0]).line : null;
}
