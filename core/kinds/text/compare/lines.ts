import { equalEnds } from '../../../equal-ends.ts';
import { diffArrays } from 'diff';

/** Lines that are equal in both, gone, or new; in the order of the texts. */
export interface LineRun {
  status: 'same' | 'gone' | 'added';
  lines: string[];
}

/** More differences than this are not looked for: the rest counts as one run. */
const mostEdits = 20_000;

/** Myers' shortest edit of lines; what opens and closes alike is not looked at. */
export function lineRuns(old: string, now: string): LineRun[] {
  return runsOf(linesOf(old), linesOf(now));
}

/** The same of words and the gaps between them. */
export function wordRuns(old: string, now: string): LineRun[] {
  return runsOf(wordsOf(old), wordsOf(now));
}

function runsOf(before: readonly string[], after: readonly string[]): LineRun[] {
  const { start, end } = equalEnds(before, after);
  const middle = [before.slice(start, before.length - end), after.slice(start, after.length - end)] as const;
  const found = diffArrays([...middle[0]], [...middle[1]], { maxEditLength: mostEdits }) as
    { value: string[]; added?: boolean; removed?: boolean }[] | undefined;
  const runs: LineRun[] = [];
  const add = (status: LineRun['status'], lines: readonly string[]): void => {
    if (lines.length > 0) runs.push({ status, lines: [...lines] });
  };
  add('same', before.slice(0, start));
  if (found)
    for (const { value, added, removed } of found) add(added ? 'added' : removed ? 'gone' : 'same', value);
  else {
    add('gone', middle[0]);
    add('added', middle[1]);
  }
  add('same', before.slice(before.length - end));
  return runs;
}

/** Without their ends: these say nothing. */
export function linesOf(text: string): string[] {
  const lines = text.replace(/^\ufeff/, '').split(/\r\n|\r|\n/);
  if (lines.at(-1) === '') lines.pop();
  return lines;
}

export function wordsOf(text: string): string[] {
  return text.match(/[\p{L}\p{N}_]+|\s+|[^\p{L}\p{N}_\s]/gu) ?? [];
}
