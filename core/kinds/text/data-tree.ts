import { flattened, isScalar } from '../keyed-values.ts';
import { parseJson } from '../parse-json.ts';
import { tableOf, type Table } from './table.ts';
import { valuesOf, type TextValues } from './values.ts';
import { xmlTree } from './xml-tree.ts';
import { yamlData } from './yaml-data.ts';

/** A structured text as what it says: a table, or data that are nested in one another. */
export type TextData = { table: Table } | { root: unknown };

/** The same by key beside it. @returns nulls where a text of this format has no structure @throws ReadError that says where it breaks */
export async function dataOf(
  text: string,
  format: string,
): Promise<{ data: TextData | null; values: TextValues | null }> {
  const ofRoot = (root: unknown): { data: TextData; values: TextValues } => ({
    data: { root },
    values: { values: flattened(root), language: null },
  });
  switch (format) {
    case 'json':
      return ofRoot(parseJson(text));
    case 'yaml':
      return ofRoot(await yamlData(text));
    case 'xml':
      return { data: { root: await xmlTree(text) }, values: await valuesOf(text, format) };
    case 'csv':
      return { data: { table: await tableOf(text) }, values: await valuesOf(text, format) };
    default: {
      const values = await valuesOf(text, format);
      return { data: namesApart(values, format === 'ini' || format === 'mtl'), values };
    }
  }
}

/** Values by name; with sections, `section.name` is a name in a section. A name that stands twice is numbered. */
function namesApart(found: TextValues | null, hasSections: boolean): TextData | null {
  if (!found) return null;
  const root: Record<string, unknown> = {};
  for (const { key, value } of found.values) {
    const at = hasSections ? key.lastIndexOf('.') : -1;
    let holder = root;
    if (at > 0) {
      const section = key.slice(0, at);
      const there = root[section];
      if (there === undefined || isScalar(there)) root[section] = holder = {};
      else holder = there as Record<string, unknown>;
    }
    const name = key.slice(at + 1);
    let free = name;
    for (let number = 2; Object.hasOwn(holder, free); number++) free = `${name} [${number}]`;
    holder[free] = value;
  }
  return { root };
}
