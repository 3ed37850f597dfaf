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

/** What a sheet calls itself, and the patterns of its files, also while it cannot be used. */
export function sheetHead(text: string): { name: string; patterns: string[] } {
  const name = /^sheet:\s*(.+)$/m.exec(text)?.[1] ?? '';
  const files = /^files:\s*(.+(?:\n\s+- .+)*|(?:\n\s*- .+)+)/m.exec(text)?.[1] ?? '';
  const patterns = files
    .replaceAll(/^\s*\[|\]\s*$/g, '')
    .split(/\n|,/)
    .map((part) => bare(part.replace(/^\s*- /, '')))
    .filter((part) => part !== '');
  return { name: bare(name), patterns };
}

function bare(text: string): string {
  return text.trim().replace(/^(['"])(.*)\1$/, '$2');
}
