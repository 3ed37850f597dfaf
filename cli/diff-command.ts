import type { EvidenceLine, FindingLine, Summary } from '../contract/findings.ts';
import type { Fold } from '../contract/noise.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { flagOption, parseArguments } from './arguments.ts';
import { ask, dataPath, runningServer } from './session.ts';
import { spanOf, spanOptions, type SpanNames } from './span-arguments.ts';

export async function diffCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { ...spanOptions, evidence: flagOption });
  const span = spanOf(given);
  const data = dataPath(given.text('data'));
  const server = await runningServer(data);
  if (given.flag('evidence')) {
    const text = server ? await evidenceThere(server, span) : await evidenceHere(data, span);
    process.stdout.write(given.flag('json') ? text : readableEvidence(text));
    return;
  }
  const text = server ? await askServer(server, { ...span, evidence: '0' }) : await findHere(data, span);
  process.stdout.write(given.flag('json') ? text : readable(text));
}

/** Compares what was not compared yet, and tells with each finding how the thing differs. */
async function evidenceThere(server: string, span: SpanNames): Promise<string> {
  const { compareThere } = await import('./compare-span.ts');
  await compareThere(server, span);
  return askServer(server, { ...span, evidence: '1' });
}

async function evidenceHere(data: string, span: SpanNames): Promise<string> {
  const [{ compareHere }, { evidenceLines }] = await Promise.all([
    import('./compare-span.ts'),
    import('../server/changes/findings/finding-lines.ts'),
  ]);
  let text = '';
  await compareHere(data, span, async ({ from, to }, { session, spans }) => {
    text = `${(await evidenceLines(session.pool, await spans.view(from, to))).join('\n')}\n`;
  });
  return text;
}

async function askServer(server: string, span: SpanNames & { evidence: '0' | '1' }): Promise<string> {
  const { status, body } = await ask(`${server}/api/diff?${new URLSearchParams(span)}`);
  if (status === 200) return body;
  const { failureSchema } = await import('../contract/failure.ts');
  throw new PlainError(failureSchema.parse(JSON.parse(body)).error);
}

async function findHere(data: string, { title, channel, from, to }: SpanNames): Promise<string> {
  const [{ withDatabase }, { findBuild, findChannel }, { findBetween }, { findingLines }] = await Promise.all(
    [
      import('./with-database.ts'),
      import('../server/acquire/builds/builds.ts'),
      import('../server/changes/findings/differences.ts'),
      import('../server/changes/findings/finding-lines.ts'),
    ],
  );
  return withDatabase(data, async ({ pool }) => {
    const channelId = await findChannel(pool, title, channel);
    const findings = await findBetween(
      pool,
      await findBuild(pool, channelId, from),
      await findBuild(pool, channelId, to),
    );
    return `${[...findingLines(findings)].join('\n')}\n`;
  });
}

function readableEvidence(lines: string): string {
  return lines
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as EvidenceLine | { summary: Summary; folds: Fold[] })
    .map((line) => {
      if ('summary' in line) {
        const hiding = line.folds.filter(({ hides }) => hides > 0);
        return `\n${Object.entries(line.summary)
          .map(([status, count]) => `${count} ${status}`)
          .join(', ')}\n${hiding.map(({ name, hides }) => `${hides} are noise: ${name}\n`).join('')}`;
      }
      const noise = line.foldedBy === null ? '' : '  (noise)';
      return `${line.status.padEnd(9)} ${line.kind.padEnd(8)} ${line.path}${noise}\n    ${line.evidence}\n`;
    })
    .join('');
}

function readable(lines: string): string {
  const parsed = lines
    .trimEnd()
    .split('\n')
    .map((line) => JSON.parse(line) as FindingLine | { summary: Summary });
  return parsed
    .map((line) => {
      if ('summary' in line) {
        const counts = Object.entries(line.summary);
        return `\n${counts.map(([status, count]) => `${count} ${status}`).join(', ')}\n`;
      }
      const from = line.oldPath !== null && line.oldPath !== line.path ? `  (from ${line.oldPath})` : '';
      return `${line.status.padEnd(9)} ${line.kind.padEnd(8)} ${line.path}${from}\n`;
    })
    .join('');
}
