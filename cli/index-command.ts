import { intakeRequestSchema } from '../contract/builds.ts';
import { bytesText } from '../core/findings/evidence.ts';
import type { IntakeResult } from '../contract/builds.ts';
import type { Progress } from '../contract/work.ts';
import { runIndex } from '../server/intake/run-index.ts';
import { checkSource, normaliseSource } from '../server/intake/source-path.ts';
import { messageOf } from '../server/plain-error.ts';
import { createJob, finishJob, ownerName } from '../server/work/queue.ts';
import { StoppedError } from '../server/work/stop.ts';
import { UsageError, flagOption, parseArguments, textOption } from './arguments.ts';
import { dataPath } from './session.ts';
import { withDatabase, type Session } from './with-database.ts';

export async function indexCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {
    title: textOption,
    build: textOption,
    channel: textOption,
    threads: textOption,
    date: textOption,
    replace: flagOption,
  });
  const [pasted, ...rest] = given.positionals;
  if (!pasted || rest.length > 0) throw new UsageError('One SOURCE is needed, a folder or an archive.');
  const request = intakeRequestSchema.safeParse({
    source: normaliseSource(pasted),
    title: given.needed('title'),
    channel: given.text('channel'),
    build: given.needed('build'),
    releasedAt: given.text('date'),
    replace: given.flag('replace'),
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`--${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  const threads = given.count('threads', 1, 256) ?? null;
  checkSource(request.data.source);
  const json = given.flag('json');
  const result = await withDatabase(dataPath(given.text('data')), (session) =>
    indexHere(session, request.data, threads, json ? printProgressLine : printProgress),
  );
  if (json) process.stdout.write(`${JSON.stringify(result)}\n`);
  else printResult(result);
}

/** Indexes in this process: makes the job as its own, so that a server beside it leaves it alone. */
export async function indexHere(
  { pool, address, folder, signal }: Session,
  request: Parameters<typeof createJob>[1],
  threads: number | null,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const owner = ownerName();
  const jobId = await createJob(pool, request, { threads, owner });
  try {
    const result = await runIndex({ address, folder, jobId, owner, threads, onProgress, signal });
    await finishJob(pool, jobId, { state: 'done', result });
    return result;
  } catch (error) {
    await finishJob(pool, jobId, {
      state: error instanceof StoppedError ? 'stopped' : 'failed',
      error: messageOf(error),
    });
    throw error;
  }
}

function printProgressLine(progress: Progress): void {
  process.stderr.write(`${JSON.stringify(progress)}\n`);
}

export function printProgress({
  phase,
  files,
  totalFiles,
  bytes,
  totalBytes,
  bytesPerSecond,
  secondsLeft,
}: Progress): void {
  if (!process.stderr.isTTY) return;
  const of = (total: string | null): string => (total === null ? '' : ` of ${total}`);
  const size =
    bytes > 0 ? `, ${bytesText(bytes)}${of(totalBytes === null ? null : bytesText(totalBytes))}` : '';
  const speed = bytesPerSecond > 0 ? `, ${bytesText(bytesPerSecond)} a second` : '';
  const left = secondsLeft === null ? '' : `, ${Math.ceil(secondsLeft)} s left`;
  process.stderr.write(
    `\r\u001b[K${phase}: ${files}${of(totalFiles?.toString() ?? null)} files${size}${speed}${left}`,
  );
}

function printResult(result: IntakeResult): void {
  if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
  process.stdout.write(
    `${result.title}, ${result.channel}, build ${result.build}: ${result.files} files in ${result.containers} archives and folders, ` +
      `${bytesText(result.bytes)}.\n${result.newContents} contents are new, ${bytesText(result.newBytes)}. ` +
      `${result.locked} locked, ${result.unreadable} listed with a problem. ${result.seconds.toFixed(1)} s.\n`,
  );
}
