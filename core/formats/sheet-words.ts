import { sheetJsonSchema } from '../../contract/format-sheets.ts';
import { texels } from '../kinds/picture/read/texels.ts';
import { functions } from './language/functions.ts';
import { scalars } from './language/scalars.ts';
import { packings } from './packings/packings.ts';

/** A word that fits where somebody writes. */
export interface SheetWord {
  word: string;
  kind: 'key' | 'type' | 'function' | 'field' | 'packing' | 'pixel format';
  says?: string;
}

/** Where in a sheet somebody writes. */
export interface WritingPlace {
  /** Keys that lead there. */
  path: string[];
  /** Whether a value is written, and no key. */
  isValue: boolean;
}

/** Keys above a place in a sheet, by indentation and braces. @param before the text up to the place */
export function writingPlace(before: string): WritingPlace {
  const lines = before.split('\n');
  const line = lines.pop() ?? '';
  const path: { indent: number; key: string }[] = [];
  for (const above of lines) {
    const found = /^(\s*)(?:- )?["']?([\w#*.-]+)["']?:/.exec(above);
    if (!found) continue;
    const [, space = '', key = ''] = found;
    while ((path.at(-1)?.indent ?? -1) >= space.length) path.pop();
    path.push({ indent: space.length, key });
  }
  const indent = /^\s*/.exec(line)?.[0].length ?? 0;
  while ((path.at(-1)?.indent ?? -1) >= indent) path.pop();
  const keys = path.map(({ key }) => key);
  // Within the line: braces open structures, colons tell their keys.
  let key: string | null = null;
  let word = '';
  const open: (string | null)[] = [];
  for (const letter of line) {
    if (letter === ':') [key, word] = [word.trim().replace(/["'-]/g, ''), ''];
    else if (letter === '{' || letter === '[') {
      if (key !== null) keys.push(key.trim());
      open.push(key);
      [key, word] = [letter === '[' ? key : null, ''];
    } else if (letter === '}' || letter === ']') {
      if (open.pop() !== null) keys.pop();
      [key, word] = [null, ''];
    } else if (letter === ',') {
      if (!line.includes('[') || line.lastIndexOf('{') > line.lastIndexOf('[')) key = null;
      word = '';
    } else word += letter;
  }
  if (key !== null && keys.at(-1) !== key) keys.push(key.trim());
  return { path: keys, isValue: key !== null };
}

interface Schema {
  $ref?: string;
  anyOf?: Schema[];
  properties?: Record<string, Schema>;
  additionalProperties?: Schema | boolean;
  items?: Schema;
  enum?: unknown[];
  $defs?: Record<string, Schema>;
}

let known: Schema | null = null;

function schemasAt(path: readonly string[]): Schema[] {
  known ??= sheetJsonSchema();
  const root = known;
  const branches = (schema: Schema): Schema[] => {
    if (schema.$ref) {
      const name = schema.$ref.split('/').at(-1) ?? '';
      return schema.$ref === '#' ? [root] : branches(root.$defs?.[name] ?? {});
    }
    return schema.anyOf ? schema.anyOf.flatMap(branches) : [schema];
  };
  let here = branches(root);
  for (const name of path)
    here = here.flatMap((schema) => {
      const own = schema.properties?.[name];
      if (own) return branches(own);
      const { additionalProperties: others, items } = schema;
      if (typeof others === 'object') return branches(others);
      return items ? branches(items).flatMap((item) => branches(item.properties?.[name] ?? {})) : [];
    });
  return here.flatMap((schema) => (schema.items ? [schema, ...branches(schema.items)] : [schema]));
}

/** Words that fit at a place of a sheet. @param text the whole sheet, whose own types and fields can be named too */
export function sheetWords({ path, isValue }: WritingPlace, text: string): SheetWord[] {
  const schemas = schemasAt(path);
  if (!isValue) {
    const keys = new Set(schemas.flatMap(({ properties }) => Object.keys(properties ?? {})));
    return [...keys].map((word) => ({ word, kind: 'key' }));
  }
  const last = path.at(-1) ?? '';
  // Names, remarks and constants are anybody’s own words.
  if (ownWords.has(last)) return [];
  const chosen = schemas
    .flatMap((schema) => schema.enum ?? [])
    .map((word): SheetWord => ({ word: String(word), kind: 'key' }));
  if (last === 'unpack')
    return Object.entries(packings).map(([word, { says }]) => ({ word, kind: 'packing', says }));
  if (last === 'format')
    return Object.entries(texels).map(([word, { encoding }]) => ({
      word,
      kind: 'pixel format',
      says: encoding,
    }));
  const own = [...text.matchAll(/^\s+["']?([A-Za-z_]\w*)["']?:/gm)].map((found) => found[1] ?? '');
  const fields = [...new Set(own)].map((word): SheetWord => ({ word, kind: 'field' }));
  if (['root', 'types'].includes(path[0] ?? '') && !isExpression(last))
    return [
      ...[
        ...Object.keys(scalars),
        'string',
        'bytes',
        'skip',
        'varint',
        'zigzag',
        'vlq',
        'fixed',
        'ufixed',
      ].map((word): SheetWord => ({ word, kind: 'type' })),
      ...fields.filter(({ word }) => /^[A-Z]/.test(word)),
    ];
  return [
    ...chosen,
    ...fields,
    ...Object.entries(functions).map(([word, { says }]): SheetWord => ({ word, kind: 'function', says })),
  ];
}

const expressions = new Set([
  'count',
  'until',
  'size',
  'at',
  'in',
  'if',
  'align',
  'equals',
  'switch',
  'value',
  'endian',
]);

const ownWords = new Set([
  'sheet',
  'language',
  'author',
  'remarks',
  'remark',
  'files',
  'is',
  'keyword',
  'begins',
  'comment',
]);

function isExpression(key: string): boolean {
  return expressions.has(key);
}
