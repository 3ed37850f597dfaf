import { existsSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { changed, edited, filesOfEdit, renamed, same, type Edit, type Told } from './edits.ts';
import { escaped, type TruthMaker } from './truth.ts';

const step = ({ old = '', new: now = '' }: Told): readonly RegExp[] => [escaped(`${old} → ${now}`)];

/** By what Python's own libraries do to them. */
const edits: Readonly<Record<string, Edit>> = {
  'json value': changed(step),
  'json space': changed(({ key = '', old = '' }) => [escaped(`${key}”`), escaped(`→ "${old} "`)]),
  'json type': changed(({ key = '' }) => [escaped(key)]),
  'json long id': changed(step),
  'json longer id': changed(step),
  'json renamed': changed(renamed, [/\bnew\b/, /\bgone\b/]),
  'json added': changed(() => [/heron” new: 12345/]),
  'json removed': changed(({ key = '' }) => [escaped(key), /gone/]),
  'json inserted': changed(() => [/new at the front/i], [/values? changed/]),
  'json reversed': changed(() => [/another order|moved/i], [/ new\b/, / gone\b/]),
  'json indent': same,
  'json escapes': same,
  'json keys': same,
  'csv cell': changed(step),
  'csv column renamed': changed(renamed, [/\bnew\b/, /\bgone\b/]),
  'csv columns swapped': changed(() => [/columns in another order/i], [/changed/]),
  'csv column gone': changed(({ column = '' }) => [escaped(`“${column}” gone`)]),
  'csv column new': changed(() => [/“heron” new/]),
  'csv row new': changed(() => [/row .* new at the front/i], [/changed/]),
  'csv row gone': changed(() => [/row .* gone/i], [/changed/]),
  'csv rows reversed': changed(() => [/rows in another order/i], [/changed/]),
  'csv row moved': changed(() => [/1 row moved/i], [/changed/]),
  'csv quoted': same,
  'csv semicolons': same,
  'xml attribute': changed(({ old = '', new: now = '' }) => [escaped(old), escaped(now)]),
  'xml text': changed(() => [/→/]),
  'xml removed': changed(() => [/gone/]),
  'xml inserted': changed(() => [/heron” new/]),
  'xml attributes turned': same,
  'xml long tags': same,
  'lines word': changed(({ line = 0, new: now = '' }) => [new RegExp(`line ${line}:`, 'i'), escaped(now)]),
  'lines line new': changed(({ line = 0 }) => [new RegExp(`line ${line} new`, 'i'), /heron/]),
  'lines line gone': changed(({ line = 0 }) => [new RegExp(`line ${line} gone`, 'i')]),
  'lines line moved': changed(({ line = 0 }) => [new RegExp(`line ${line} moved`, 'i')]),
  'lines spaces': changed(({ line = 0 }) => [new RegExp(`line ${line}`, 'i')]),
  'lines line ends': same,
};

/** Open texts of packages that are installed anyway, by the first word of an edit. */
function sourcesOf(kind: string): string[] {
  const modules = join(applicationRoot, 'node_modules');
  const within = (folder: string, end: string): string[] =>
    existsSync(folder)
      ? readdirSync(folder)
          .filter((name) => name.endsWith(end))
          .sort()
          .map((name) => join(folder, name))
      : [];
  switch (kind) {
    case 'json':
      return [
        join(modules, 'flag-icons-new', 'country.json'),
        ...within(join(modules, 'axe-core', 'locales'), '.json').slice(0, 6),
        join(modules, 'three', 'package.json'),
        join(modules, 'mocha', 'package.json'),
      ];
    case 'csv':
      return [join(modules, 'papaparse', 'tests', 'long-sample.csv')];
    case 'xml':
      return [...within('/etc/fonts/conf.d', '.conf'), '/usr/share/mime/packages/freedesktop.org.xml'];
    default:
      return ['three', 'papaparse', 'hono', 'zod', 'mocha', 'chai', 'diff', 'yaml', 'commander'].map((name) =>
        join(modules, name, 'README.md'),
      );
  }
}

/** Pairs of texts: what Python's libraries for JSON, CSV and XML did to open ones. */
export const makeTexts: TruthMaker = async function* (folder, share) {
  for (const [group, { is, says, never }] of Object.entries(edits)) {
    const kind = group.split(' ')[0] ?? '';
    const sources = sourcesOf(kind).filter(
      (path) => existsSync(path) && /\w/.test(readFileSync(path, 'utf8')),
    );
    if (sources.length === 0) continue;
    for (let round = 0; round < Math.max(1, Math.round(filesOfEdit * share)); round++) {
      const source = sources[round % sources.length] ?? '';
      const extension = kind === 'lines' ? 'txt' : kind;
      const copy = join(folder, `old.${extension}`);
      const text = readFileSync(source, 'utf8').replaceAll('\r\n', '\n');
      writeFileSync(copy, kind === 'csv' ? smallTable(text) : text);
      const pair = await edited('edit-text.py', group, copy, round);
      if (!pair) continue;
      yield {
        group,
        name: `${source.split('/').slice(-2).join('/')} ${round}`,
        old: { bytes: pair.old, path: `texts/a.${extension}` },
        now: { bytes: pair.now, path: `texts/a.${extension}` },
        is,
        ...(says ? { says: says(pair.told) } : {}),
        ...(never ? { never } : {}),
      };
    }
  }
};

/** Its first rows, as Python writes them: each with an id of its own in front. */
function smallTable(text: string): string {
  const rows = text.split('\n').filter((row) => row !== '' && !row.includes('"'));
  return rows
    .slice(0, 60)
    .map((row, at) => `${at === 0 ? 'id' : `r${at}`},${row.split(',').slice(0, 8).join(',')}\n`)
    .join('');
}
