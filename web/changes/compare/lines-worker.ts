import { lineRuns, wordRuns } from '../../../core/kinds/text/compare/lines.ts';

export interface LinesRequest {
  old: string;
  now: string;
  isOneColumn: boolean;
}

export type Words = readonly { text: string; isOther: boolean }[];

/** A row that is shown: a line of either text or of both; null where there is none. */
export interface ShownRow {
  status: 'same' | 'other';
  old: Words | null;
  new: Words | null;
  oldNumber: number | null;
  newNumber: number | null;
}

export interface LinesAnswer {
  rows: ShownRow[];
}

/** Words of longer lines are not compared. */
const longestLine = 2000;

/** A thread that puts two texts beside each other. */
self.onmessage = ({ data: { old, now, isOneColumn } }: MessageEvent<LinesRequest>): void => {
  const rows: ShownRow[] = [];
  let [oldNumber, newNumber] = [1, 1];
  let gone: string[] = [];
  let added: string[] = [];
  const plain = (text: string): Words => [{ text, isOther: false }];
  const flush = (): void => {
    const count = Math.max(gone.length, added.length);
    const pairs = Array.from({ length: count }, (_, at) => wordsOf(gone[at] ?? null, added[at] ?? null));
    if (isOneColumn) {
      for (const [before] of pairs)
        if (before)
          rows.push({ status: 'other', old: before, new: null, oldNumber: oldNumber++, newNumber: null });
      for (const [, after] of pairs)
        if (after)
          rows.push({ status: 'other', old: null, new: after, oldNumber: null, newNumber: newNumber++ });
    } else
      for (const [before, after] of pairs)
        rows.push({
          status: 'other',
          old: before,
          new: after,
          oldNumber: before ? oldNumber++ : null,
          newNumber: after ? newNumber++ : null,
        });
    gone = [];
    added = [];
  };
  for (const { status, lines } of lineRuns(old, now)) {
    if (status === 'gone') gone.push(...lines);
    else if (status === 'added') added.push(...lines);
    else {
      flush();
      for (const line of lines)
        rows.push({
          status: 'same',
          old: plain(line),
          new: plain(line),
          oldNumber: oldNumber++,
          newNumber: newNumber++,
        });
    }
  }
  flush();
  (self as unknown as Worker).postMessage({ rows } satisfies LinesAnswer);
};

function wordsOf(old: string | null, now: string | null): readonly [Words | null, Words | null] {
  const whole = (text: string | null): Words | null => (text === null ? null : [{ text, isOther: false }]);
  if (old === null || now === null || old.length + now.length > longestLine) return [whole(old), whole(now)];
  const runs = wordRuns(old, now);
  const side = (status: 'gone' | 'added'): Words =>
    runs
      .filter((run) => run.status === 'same' || run.status === status)
      .map((run) => ({ text: run.lines.join(''), isOther: run.status !== 'same' }));
  return [side('gone'), side('added')];
}
