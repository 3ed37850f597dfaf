import { reportTypes, writeReport, type ReportFormat } from '../core/findings/report.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { UsageError, parseArguments, textOption } from './arguments.ts';
import { compareHere, compareThere } from './compare-span.ts';
import { ask, dataPath, runningServer } from './session.ts';
import { spanOf, spanOptions } from './span-arguments.ts';

/** Writes the news of an update: comparing what was not compared yet comes first. */
export async function reportCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, { ...spanOptions, format: textOption });
  const format = given.text('format') ?? 'md';
  if (!isFormat(format)) throw new UsageError(`--format is ${Object.keys(reportTypes).join(', ')}.`);
  const span = spanOf(given);
  const data = dataPath(given.text('data'));
  const server = await runningServer(data);
  if (!server) {
    await compareHere(data, span, async ({ from, to }, { news }) => {
      process.stdout.write(writeReport(await news.of(from, to), format));
    });
    return;
  }
  await compareThere(server, span);
  const { status, body } = await ask(`${server}/api/report?${new URLSearchParams({ ...span, format })}`);
  if (status === 200) {
    process.stdout.write(body);
    return;
  }
  const { failureSchema } = await import('../contract/failure.ts');
  throw new PlainError(failureSchema.parse(JSON.parse(body)).error);
}

function isFormat(format: string): format is ReportFormat {
  return Object.hasOwn(reportTypes, format);
}
