import type { FindingLine, Summary } from '../contract/findings.ts';
import { PlainError } from '../server/plain-error.ts';
import { parseArguments, textOption } from './arguments.ts';
import { ask, dataPath, runningServer } from './session.ts';

export async function diffCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {
    title: textOption,
    from: textOption,
    to: textOption,
    channel: textOption,
  });
  const span = {
    title: given.needed('title'),
    channel: given.text('channel') ?? 'main',
    from: given.needed('from'),
    to: given.needed('to'),
  };
  const data = dataPath(given.text('data'));
  const server = await runningServer(data);
  const text = server ? await askServer(server, span) : await findHere(data, span);
  process.stdout.write(given.flag('json') ? text : readable(text));
}

type Span = Record<'title' | 'channel' | 'from' | 'to', string>;

async function askServer(server: string, span: Span): Promise<string> {
  const { status, body } = await ask(`${server}/api/diff?${new URLSearchParams(span)}`);
  if (status === 200) return body;
  const { failureSchema } = await import('../contract/failure.ts');
  throw new PlainError(failureSchema.parse(JSON.parse(body)).error);
}

async function findHere(data: string, { title, channel, from, to }: Span): Promise<string> {
  const [{ withDatabase }, { findBuild, findChannel }, { findBetween }, { findingLines }] = await Promise.all(
    [
      import('./with-database.ts'),
      import('../server/builds/builds.ts'),
      import('../server/findings/differences.ts'),
      import('../server/findings/finding-lines.ts'),
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
