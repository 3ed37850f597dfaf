import type { Comparison, TextDetail, ValueChange } from '../../../contract/comparisons.ts';
import { plural } from '../../figures.ts';
import { figure, named, sentenceOf, type Comparer } from '../comparing.ts';
import { identify } from '../identify.ts';
import { isReadError, type ReadRequest } from '../reading.ts';
import { lineRuns, wordRuns, type LineRun } from './compare/lines.ts';
import { compareValues } from '../keyed-values.ts';
import { decodeText } from './decode.ts';
import { languageOfPath } from './language.ts';
import { valuesOf, type TextValues } from './values.ts';

const mostValues = 500;
const mostBytes = 32 * 1024 * 1024;
/** Words are compared where so many characters at most changed. */
const mostWordLength = 200_000;

/** Compares two texts: values by key where both have them, lines and words of all. */
export const compareTexts: Comparer = async (oldRequest, newRequest) => {
  const [old, now] = [await sideOf(oldRequest), await sideOf(newRequest)];
  const runs = lineRuns(old.text, now.text);
  const changes = old.values && now.values ? compareValues(old.values.values, now.values.values) : null;
  const [linesAdded, linesGone] = [countOf(runs, 'added'), countOf(runs, 'gone')];
  const words = changedWords(runs);
  const format = identify(newRequest.bytes.subarray(0, 1024), newRequest.path).format;
  // JSON has no comments, and writes one value in several ways.
  const remarks =
    changes?.length === 0 && linesAdded + linesGone > 0 && format !== 'json'
      ? otherWords(old.text, now.text)
      : [];
  const isSame = changes ? changes.length + remarks.length === 0 : linesAdded + linesGone === 0;
  const detail: TextDetail = {
    kind: 'text',
    linesAdded,
    linesGone,
    ...words,
    values: changes?.slice(0, mostValues) ?? null,
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
      : Math.min(1, Math.max(0.002, (changes?.length ?? Math.max(linesAdded, linesGone)) / total)),
    sentence: sentenceOf(
      remarks.length > 0
        ? [
            `the same values, other words beside them: ${remarks.slice(0, 8).join(' ')}${remarks.length > 8 ? ' …' : ''}`,
          ]
        : describeText(detail, changes, isSame),
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
  language: string | null;
}

async function sideOf({ bytes, path }: ReadRequest): Promise<Side> {
  const { text, encoding } = decodeText(bytes.subarray(0, mostBytes));
  const { format } = identify(bytes.subarray(0, 1024), path);
  let values: TextValues | null = null;
  try {
    values = await valuesOf(text, format);
  } catch (error) {
    // What breaks off as JSON still has lines.
    if (!isReadError(error)) throw error;
  }
  return {
    text,
    lines: text.split(/\r\n|\r|\n/).length,
    encoding,
    values,
    language: values?.language ?? languageOfPath(path),
  };
}

/** Words that only one of two texts has, or has more often, as of comments; the newer one's first. */
function otherWords(old: string, now: string): string[] {
  const wordsOf = (text: string): string[] => text.match(/[\p{L}\p{N}]+/gu) ?? [];
  const counts = new Map<string, number>();
  for (const word of wordsOf(now)) counts.set(word, (counts.get(word) ?? 0) + 1);
  for (const word of wordsOf(old)) counts.set(word, (counts.get(word) ?? 0) - 1);
  return [...counts]
    .filter(([, count]) => count !== 0)
    .sort(([, a], [, b]) => b - a)
    .map(([word]) => word);
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

function describeText(
  { linesAdded, linesGone, wordsAdded, wordsGone, language, untranslated }: TextDetail,
  changes: readonly ValueChange[] | null,
  isSame: boolean,
): string[] {
  if (isSame) return [linesAdded + linesGone === 0 ? 'the same text' : 'the same values, written otherwise'];
  const parts: string[] = [];
  if (changes) {
    const of = (status: ValueChange['status']): ValueChange[] =>
      changes.filter((change) => change.status === status);
    const said: readonly [ValueChange['status'], string][] = [
      ['changed', 'changed'],
      ['added', 'new'],
      ['gone', 'gone'],
    ];
    for (const [status, word] of said) {
      const [first] = of(status);
      if (!first) continue;
      const count = of(status).length;
      if (count > 1) parts.push(`${plural(count, 'value')} ${word}`);
      else
        parts.push(
          status === 'changed'
            ? `${named(first.key)} ${short(first.old)} → ${short(first.new)}`
            : `${named(first.key)} ${word}${status === 'added' && first.new !== '' ? `: ${short(first.new)}` : ''}`,
        );
    }
  } else {
    if (linesAdded > 0) parts.push(`${plural(linesAdded, 'line')} new`);
    if (linesGone > 0) parts.push(`${plural(linesGone, 'line')} gone`);
    if (linesAdded > 0 && linesGone > 0)
      parts.push(`${plural(wordsAdded, 'word')} for ${plural(wordsGone, 'word')}`);
  }
  if (language !== null && untranslated.length > 0)
    parts.push(`${plural(untranslated.length, 'string')} untranslated`);
  return parts;
}

function short(value: string): string {
  const line = value.replace(/\s+/g, ' ').trim();
  return line === '' ? 'nothing' : line.length > 60 ? `${line.slice(0, 57)}…` : line;
}
