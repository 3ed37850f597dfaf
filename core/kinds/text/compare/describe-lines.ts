import { plural } from '../../../figures.ts';
import type { LineRun } from './lines.ts';
import { wordRuns } from './lines.ts';
import { quoted, shownValue } from '../../data/shown-value.ts';

/** Lines of both texts where they differ, with their numbers from 1. */
interface Change {
  line: number;
  oldLine: number;
  gone: readonly string[];
  added: readonly string[];
}

const longestWords = 60;

/** How two texts differ in their lines, in words: which line, and what stood there. */
export function describeLines(runs: readonly LineRun[]): string[] {
  const changes = changesOf(runs);
  const [first] = changes;
  if (!first) return [];
  const gone = changes.flatMap((change) => change.gone);
  const added = changes.flatMap((change) => change.added);
  if (gone.length > 0 && isSameSet(gone, added))
    return gone.length === 1
      ? [
          `line ${changes.find((change) => change.gone.length > 0)?.oldLine ?? 1} moved to line ${changes.find((change) => change.added.length > 0)?.line ?? 1}`,
        ]
      : [`${plural(gone.length, 'line')} in another order, from line ${first.line} on`];
  const changed = changes.reduce((sum, change) => sum + Math.min(change.gone.length, change.added.length), 0);
  const news = added.length - changed;
  const lost = gone.length - changed;
  const total = changed + news + lost;
  if (total === 1) return [describeOne(first)];
  const counted: [number, string][] = [
    [changed, 'changed'],
    [news, 'new'],
    [lost, 'gone'],
  ];
  const parts = counted
    .filter(([count]) => count > 0)
    .map(([count, word], at) =>
      at === 0 ? `${plural(count, 'line')} ${word}` : `${count.toLocaleString('en')} ${word}`,
    );
  const isSpaces = changed > 0 && news + lost === 0 && isSpacing(changes);
  if (isSpaces) return [`${parts.join(', ')} in spaces alone, the first is line ${first.line}`];
  const run = changes.length === 1 && total > 1;
  const last = first.line + Math.max(first.added.length, 1) - 1;
  const where = run
    ? lost === total
      ? `from line ${first.oldLine} on`
      : last > first.line
        ? `from line ${first.line} to ${last}`
        : `at line ${first.line}`
    : `the first is ${describeOne(first)}`;
  return [`${parts.join(', ')}, ${where}`];
}

function changesOf(runs: readonly LineRun[]): Change[] {
  const changes: Change[] = [];
  let [oldLine, line] = [1, 1];
  let open: { line: number; oldLine: number; gone: string[]; added: string[] } | null = null;
  for (const { status, lines } of runs) {
    if (status === 'same') {
      open = null;
      oldLine += lines.length;
      line += lines.length;
      continue;
    }
    if (!open) changes.push((open = { line, oldLine, gone: [], added: [] }));
    if (status === 'gone') {
      open.gone.push(...lines);
      oldLine += lines.length;
    } else {
      open.added.push(...lines);
      line += lines.length;
    }
  }
  return changes;
}

/** The line of a change, with the words that went and those that came. */
function describeOne({ line, oldLine, gone, added }: Change): string {
  const [before] = gone;
  const [after] = added;
  if (before === undefined) return `line ${line} new: ${words(after ?? '')}`;
  if (after === undefined) return `line ${oldLine} gone: ${words(before)}`;
  const [old, now] = differing(before, after);
  return `line ${line}: ${old} → ${now}`;
}

/** The stretch from the first word that differs to the last one; more of the line where that says little. */
function differing(old: string, now: string): [old: string, now: string] {
  const runs = wordRuns(old, now);
  const first = runs.findIndex(({ status }) => status !== 'same');
  const last = runs.findLastIndex(({ status }) => status !== 'same');
  const middle = runs.slice(Math.max(0, first), last + 1);
  const side = (status: LineRun['status']): string =>
    middle.flatMap((run) => (run.status === 'same' || run.status === status ? run.lines : [])).join('');
  const [gone, added] = [side('gone'), side('added')];
  if (gone === '' || added === '') {
    // The word beside tells where it is.
    const before =
      (runs[first - 1]?.lines ?? [])
        .join('')
        .split(/(?<=\s)(?=\S)/)
        .at(-1) ?? '';
    const after = (runs[last + 1]?.lines ?? []).join('').split(/(?<=\S)(?=\s)/)[0] ?? '';
    return [words(`${before}${gone}${after}`), words(`${before}${added}${after}`)];
  }
  return [words(gone), words(added)];
}

function words(text: string): string {
  const shown = shownValue(text);
  const marked = shown === text ? `“${text}”` : quoted(text);
  return marked.length > longestWords ? `${marked.slice(0, longestWords - 1)}…` : marked;
}

function isSameSet(a: readonly string[], b: readonly string[]): boolean {
  return a.length === b.length && [...a].sort().join('\n') === [...b].sort().join('\n');
}

function isSpacing(changes: readonly Change[]): boolean {
  const bare = (lines: readonly string[]): string => lines.join('\n').replace(/[^\S\n]+/g, '');
  return changes.every(({ gone, added }) => bare(gone) === bare(added));
}
