import { isMap, isScalar, isSeq, parseDocument } from 'yaml';

/** What a sheet begins as: it fits every file, and reads its first bytes. @param path of a file that it is for */
export function newSheet(path: string, names: readonly string[]): string {
  const extension = /\.([\w-]+)$/.exec(path)?.[1];
  const base = extension === undefined ? 'New format' : `Format of .${extension}`;
  let name = base;
  for (let number = 2; names.includes(name); number++) name = `${base} ${number}`;
  return `sheet: ${name}
language: 1
files: '${extension === undefined ? '*' : `*.${extension}`}'
root:
  first: u32
`;
}

/** What a sheet calls itself, and the patterns of its files, also while the rest of it cannot be used. */
export function sheetHead(text: string): { name: string; patterns: string[] } {
  const document = parseDocument(text, { uniqueKeys: false, logLevel: 'silent' });
  if (!isMap(document.contents)) return { name: '', patterns: [] };
  const files = document.contents.get('files', true);
  const patterns = isSeq(files) ? files.items : [files];
  return {
    name: textOf(document.contents.get('sheet', true)),
    patterns: patterns.map(textOf).filter((pattern) => pattern !== ''),
  };
}

function textOf(node: unknown): string {
  if (!isScalar(node)) return '';
  const { value } = node;
  return typeof value === 'string' || typeof value === 'number' ? String(value).trim() : '';
}
