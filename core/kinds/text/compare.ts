import type { Comparison, TextDetail } from '../../../contract/comparisons.ts';
import { plural } from '../../figures.ts';
import { figure, sentenceOf, type Comparer } from '../comparing.ts';
import { identify } from '../identify.ts';
import { isReadError, type ReadRequest } from '../reading.ts';
import type { DataChange } from '../data/data-change.ts';
import { dataChanges } from '../data/data-changes.ts';
import { describeLines } from './compare/describe-lines.ts';
import { describeChanges, type PartWords } from '../data/describe-values.ts';
import { lineRuns, wordRuns, type LineRun } from './compare/lines.ts';
import { tableChanges } from './compare/table-changes.ts';
import { dataOf, type TextData } from './data-tree.ts';
import { commentsOf } from './comments.ts';
import { decodeText } from './decode.ts';
import { languageOfPath } from './language.ts';
import type { TextValues } from './values.ts';

const mostValues = 500;
const mostBytes = 32 * 1024 * 1024;
/** Words are compared where so many characters at most changed. */
const mostWordLength = 200_000;

/** Compares two texts: values by key where both have them, lines and words of all. */
export const compareTexts: Comparer = async (oldRequest, newRequest) => {
  const [old, now] = [await sideOf(oldRequest), await sideOf(newRequest)];
  const runs = lineRuns(old.text, now.text);
  const changes = changesOf(old.data, now.data);
  const [linesAdded, linesGone] = [countOf(runs, 'added'), countOf(runs, 'gone')];
  const words = changedWords(runs);
  const { format } = now;
  const comments = changes?.length === 0 ? describeComments(old, now) : [];
  const isSame = changes ? changes.length + comments.length === 0 : linesAdded + linesGone === 0;
  const detail: TextDetail = {
    kind: 'text',
    linesAdded,
    linesGone,
    ...words,
    values:
      changes
        ?.slice(0, mostValues)
        .map(({ status, key, old: before, new: after }) => ({ status, key, old: before, new: after })) ??
      null,
    valuesTotal: changes?.length ?? 0,
    language: now.language,
    untranslated: (now.values?.values ?? [])
      .filter(({ value }) => value === '')
      .map(({ key }) => key)
      .slice(0, mostValues),
  };
  const total = Math.max(
    1,
    changes
      ? Math.max(old.values?.values.length ?? 0, now.values?.values.length ?? 0)
      : Math.max(lengthOf(runs, 'gone'), lengthOf(runs, 'added')),
  );
  const comparison: Comparison = {
    kind: 'text',
    nature: isSame ? (linesAdded + linesGone === 0 ? 'same' : 'rewritten') : 'other',
    extent: isSame
      ? 0
      : Math.min(
          1,
          Math.max(
            0.002,
            (changes?.reduce((sum, { values }) => sum + values, 0) ?? Math.max(linesAdded, linesGone)) /
              total,
          ),
        ),
    sentence: sentenceOf(
      comments.length > 0
        ? ['the same values', ...comments]
        : describeText(detail, changes, runs, isSame, wordsOf(format)),
    ),
    figures: [
      ...figure('values', old.values?.values.length ?? 'none', now.values?.values.length ?? 'none'),
      ...figure('lines', old.lines, now.lines),
      ...figure('encoding', old.encoding, now.encoding),
      ...figure('untranslated', untranslatedOf(old.values), untranslatedOf(now.values)),
      ...(linesAdded + linesGone > 0
        ? [
            {
              name: 'lines new and gone',
              old: '',
              new: `${linesAdded.toLocaleString('en')} and ${linesGone.toLocaleString('en')}`,
            },
          ]
        : []),
      ...(words.wordsAdded + words.wordsGone > 0
        ? [
            {
              name: 'words new and gone',
              old: '',
              new: `${words.wordsAdded.toLocaleString('en')} and ${words.wordsGone.toLocaleString('en')}`,
            },
          ]
        : []),
    ],
    detail,
  };
  return { comparison, picture: null };
};

interface Side {
  text: string;
  lines: number;
  encoding: string;
  values: TextValues | null;
  /** The same as what it is made of; null where it has no structure, or breaks off. */
  data: TextData | null;
  format: string;
  language: string | null;
}

async function sideOf({ bytes, path }: ReadRequest): Promise<Side> {
  const { text, encoding } = decodeText(bytes.subarray(0, mostBytes));
  const { format } = identify(bytes.subarray(0, 1024), path);
  let values: TextValues | null = null;
  let data: TextData | null = null;
  try {
    ({ data, values } = await dataOf(text, format));
  } catch (error) {
    // What breaks off as JSON still has lines.
    if (!isReadError(error)) throw error;
  }
  return {
    text,
    lines: text.split(/\r\n|\r|\n/).length,
    encoding,
    values,
    data,
    format,
    language: values?.language ?? languageOfPath(path),
  };
}

/** Comments that came, went or changed; they are no values. */
function describeComments(old: Side, now: Side): string[] {
  const runs = lineRuns(
    commentsOf(old.text, old.format).join('\n'),
    commentsOf(now.text, now.format).join('\n'),
  );
  const [gone, added] = [linesOf(runs, 'gone'), linesOf(runs, 'added')];
  const [before, after] = [gone[0], added[0]];
  if (gone.length === 1 && added.length === 1)
    return [`a comment changed: ${shortened(before ?? '')} → ${shortened(after ?? '')}`];
  if (gone.length + added.length === 1)
    return [`a comment ${after === undefined ? 'gone' : 'new'}: ${shortened(after ?? before ?? '')}`];
  if (gone.length + added.length === 0) return otherWords(old, now);
  return [
    [
      added.length > 0 ? `${plural(added.length, 'comment')} new` : '',
      gone.length > 0 ? `${plural(gone.length, 'comment')} gone` : '',
    ]
      .filter(Boolean)
      .join(' and '),
  ];
}

/** Words that only one of two texts has, or has more often, though no value differs: what no value is made of. */
function otherWords(old: Side, now: Side): string[] {
  // Of these all that is no comment is a value, and one value is written in several ways.
  if (now.format === 'json' || now.format === 'xml') return [];
  const counts = new Map<string, number>();
  const add = (text: string, by: number): void => {
    for (const word of text.match(/[\p{L}\p{N}]+/gu) ?? []) counts.set(word, (counts.get(word) ?? 0) + by);
  };
  add(now.text, 1);
  add(old.text, -1);
  const words = [...counts].filter(([, count]) => count !== 0).sort(([, a], [, b]) => b - a);
  if (words.length === 0) return [];
  const shown = words.slice(0, 6).map(([word]) => word);
  return [`other words beside them: ${shown.join(' ')}${words.length > shown.length ? ' …' : ''}`];
}

function linesOf(runs: readonly LineRun[], status: LineRun['status']): string[] {
  return runs.filter((run) => run.status === status).flatMap(({ lines }) => lines);
}

function shortened(text: string): string {
  return `“${text.length > 60 ? `${text.slice(0, 59)}…` : text}”`;
}

function untranslatedOf(values: TextValues | null): number {
  return values?.values.filter(({ value }) => value === '').length ?? 0;
}

function countOf(runs: readonly LineRun[], status: LineRun['status']): number {
  return runs.reduce((sum, run) => sum + (run.status === status ? run.lines.length : 0), 0);
}

function lengthOf(runs: readonly LineRun[], side: 'gone' | 'added'): number {
  return countOf(runs, 'same') + countOf(runs, side);
}

function changedWords(runs: readonly LineRun[]): Pick<TextDetail, 'wordsAdded' | 'wordsGone'> {
  const textOf = (status: LineRun['status']): string =>
    runs
      .filter((run) => run.status === status)
      .flatMap(({ lines }) => lines)
      .join('\n');
  const [gone, added] = [textOf('gone'), textOf('added')];
  const count = (found: readonly LineRun[], status: LineRun['status']): number =>
    found
      .filter((run) => run.status === status)
      .flatMap(({ lines }) => lines)
      .filter((word) => /[\p{L}\p{N}]/u.test(word)).length;
  if (gone.length + added.length > mostWordLength)
    return { wordsAdded: added.split(/\s+/).length, wordsGone: gone.split(/\s+/).length };
  const found = wordRuns(gone, added);
  return { wordsAdded: count(found, 'added'), wordsGone: count(found, 'gone') };
}

/** Null where one of them has no structure, or it is deeper than calls may be: then lines are told. */
function changesOf(old: TextData | null, now: TextData | null): DataChange[] | null {
  if (!old || !now || 'table' in old !== 'table' in now) return null;
  if ('table' in old && 'table' in now) return tableChanges(old.table, now.table);
  try {
    return 'root' in old && 'root' in now ? dataChanges(old.root, now.root) : null;
  } catch (error) {
    if (error instanceof RangeError) return null;
    throw error;
  }
}

function wordsOf(format: string): PartWords {
  if (format === 'csv') return { item: 'row', key: 'column' };
  if (format === 'xml') return { item: 'element', key: 'element' };
  if (format === 'mtl') return { item: 'item', key: 'material' };
  return { item: 'item', key: 'key' };
}

function describeText(
  { linesAdded, linesGone, language, untranslated }: TextDetail,
  changes: readonly DataChange[] | null,
  runs: readonly LineRun[],
  isSame: boolean,
  words: PartWords,
): string[] {
  if (isSame) return [linesAdded + linesGone === 0 ? 'the same text' : 'the same values, written otherwise'];
  const parts = changes ? describeChanges(changes, words) : describeLines(runs);
  if (language !== null && untranslated.length > 0)
    parts.push(`${plural(untranslated.length, 'string')} untranslated`);
  return parts;
}
