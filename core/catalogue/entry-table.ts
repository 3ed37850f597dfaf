import type { EditionEntry } from '../../contract/editions.ts';

const columns = [
  'address',
  'name',
  'internal name',
  'kind of thing',
  'tags',
  'first build',
  'newest build',
  'paths',
];

function rowOf(entry: EditionEntry): string[] {
  const { address, name, internalName, thing, tags, assets } = entry;
  return [
    ...[address, name, internalName, thing, tags.join('; ')],
    ...[assets[0]?.firstBuild ?? '', assets[0]?.build ?? ''],
    assets.map(({ path }) => path).join('; '),
  ];
}

/** Entries as CSV (RFC 4180), with a head. */
export function entriesCsv(entries: readonly EditionEntry[]): string {
  return [columns, ...entries.map(rowOf)].map((row) => `${row.map(quoted).join(',')}\r\n`).join('');
}

/** A field of CSV. What a spreadsheet would take for a formula is kept from being one. */
function quoted(text: string): string {
  const safe = /^[=+\-@\t\r]/.test(text) ? `'${text}` : text;
  return /[",\r\n]/.test(safe) ? `"${safe.replaceAll('"', '""')}"` : safe;
}

/** The same as JSON, a line for each entry. */
export function entriesJson(entries: readonly EditionEntry[]): string {
  const lines = entries.map(({ assets, ...entry }) =>
    JSON.stringify({
      ...entry,
      assets: assets.map(({ path, kind, format, build, firstBuild, bytes, facts }) => ({
        ...{ path, kind, format, build, firstBuild, bytes, facts },
      })),
    }),
  );
  return `[\n${lines.join(',\n')}\n]\n`;
}
