import { isScalar } from '../keyed-values.ts';
import { ReadError } from '../reading.ts';
import { numberOf, parseJson } from '../parse-json.ts';
import { tableOf, type Table } from './table.ts';
import { valuesOf } from './values.ts';
import { xmlTree } from './xml-tree.ts';

/** A structured text as what it says: a table, or data that are nested in one another. */
export type TextData = { table: Table } | { root: unknown };

/** @returns null where a text of this format has no structure @throws ReadError that says where it breaks */
export async function dataOf(text: string, format: string): Promise<TextData | null> {
  switch (format) {
    case 'json':
      return { root: parseJson(text) };
    case 'yaml':
      return { root: await yamlData(text) };
    case 'xml':
      return { root: await xmlTree(text) };
    case 'csv':
      return { table: await tableOf(text) };
    case 'ini':
    case 'mtl':
      return namesApart(await valuesOf(text, format), true);
    default:
      return namesApart(await valuesOf(text, format), false);
  }
}

/** YAML with all digits of its numbers. Several documents are a list. */
async function yamlData(text: string): Promise<unknown> {
  const { parseAllDocuments, visit } = await import('./structured.ts');
  const roots: unknown[] = [];
  for (const document of parseAllDocuments(text.replace(/^\ufeff/, ''))) {
    const [error] = ('errors' in document ? document.errors : []) as { message: string }[];
    if (error) throw new ReadError(`this is not valid YAML: ${error.message.split('\n')[0] ?? ''}`);
    if (!('toJS' in document)) continue;
    visit(document, {
      Scalar(_, node) {
        if (typeof node.value === 'number' && /^[+-]?[\d.]+(?:[eE][+-]?\d+)?$/.test(node.source ?? ''))
          node.value = numberOf(node.source ?? '');
      },
    });
    roots.push(document.toJS({ maxAliasCount: 100 }));
  }
  return roots.length === 1 ? roots[0] : roots;
}

/** Values by name; with sections, `section.name` is a name in a section. A name that stands twice is numbered. */
function namesApart(found: Awaited<ReturnType<typeof valuesOf>>, hasSections: boolean): TextData | null {
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
