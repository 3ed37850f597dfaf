import { isMet, measuredOf, type Asked } from '../result.ts';
import type { BenchRun } from './history.ts';

/** The page that tells of the last run of every benchmark. */
export function benchmarksPage(history: readonly BenchRun[], names: readonly string[]): string {
  const parts = names.map((name) => {
    const last = history.filter(({ bench }) => bench === name).at(-1);
    return last ? sectionOf(last) : `## ${name}\n\nNot run yet.\n`;
  });
  return `# Benchmarks

Written by \`./worvel bench all\`, which runs each in a fresh process, in turn with the general-purpose program that is named.
Figures in seconds are of one machine; ratios tell more. \`benchmarks.json\` has every run.

${parts.join('\n')}`;
}

function sectionOf(run: BenchRun): string {
  const { bench, date, commit, cores, processor, load, paceSeconds, minutes, result, failure } = run;
  const told = [
    `${date.slice(0, 16).replace('T', ' ')} UTC, commit ${commit ?? 'unknown'}`,
    `${cores} cores (${processor})`,
    `load ${load} before`,
    `a hundred million additions in ${paceSeconds} s`,
    `${minutes} minutes`,
  ].join('; ');
  if (!result) return `## ${bench}\n\n${told}.\n\nIt failed: ${failure ?? 'unknown'}\n`;
  const rows = Object.entries(result.asked).map(([name, limits]) => {
    const measured = measuredOf(result, name);
    return `| ${limits.what} | ${numberText(measured)} | ${askedText(limits)} | ${isMet(measured, limits) ? 'met' : '**not met**'} |`;
  });
  const others = [...Object.entries(result.figures), ...Object.entries(result.ratios)]
    .filter(([name]) => !(name in result.asked))
    .map(([name, value]) => `${name} ${numberText(value)}`);
  const table = `| | measured | asked | |
| --- | --- | --- | --- |
${rows.join('\n')}
`;
  return `## ${bench}

${told}.

${rows.length > 0 ? table : 'Nothing was asked of it.\n'}${others.length > 0 ? `\nAlso: ${others.join(', ')}.\n` : ''}`;
}

function askedText({ most, least }: Asked): string {
  return [
    ...(most === undefined ? [] : [`at most ${numberText(most)}`]),
    ...(least === undefined ? [] : [`at least ${numberText(least)}`]),
  ].join(', ');
}

function numberText(value: number): string {
  if (!Number.isFinite(value)) return '–';
  return Math.abs(value) >= 1000
    ? Math.round(value).toLocaleString('en')
    : String(Number(value.toPrecision(3)));
}
