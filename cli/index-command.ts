import { intakeRequestSchema, type IntakeRequest, type IntakeResult } from '../contract/builds.ts';
import { bytesText } from '../core/findings/evidence.ts';
import type { Progress } from '../contract/work.ts';
import { CrewThreads } from '../server/intake/crew-threads.ts';
import { runIndex } from '../server/intake/run-index.ts';
import { checkSource, normaliseSource } from '../server/intake/source-path.ts';
import { messageOf } from '../server/plain-error.ts';
import { createJob, finishJob, ownerName } from '../server/work/queue.ts';
import { StoppedError } from '../server/work/stop.ts';
import { UsageError, flagOption, parseArguments, textOption } from './arguments.ts';
import { indexThere } from './index-there.ts';
import { dataPath, runningServer } from './session.ts';
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
    threads: given.count('threads', 1, 256),
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`--${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  checkSource(request.data.source);
  const json = given.flag('json');
  const data = dataPath(given.text('data'));
  const onProgress = json ? printProgressLine : printProgress;
  const server = await runningServer(data);
  const result = server
    ? await indexThere(server, request.data, onProgress)
    : await withDatabase(data, (session) => indexHere(session, request.data, onProgress));
  if (json) process.stdout.write(`${JSON.stringify(result)}\n`);
  else printResult(result);
}

/** Indexes in this process: makes the job as its own, so that a server that starts meanwhile leaves it alone. */
export async function indexHere(
  { pool, address, folder, signal }: Session,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const owner = ownerName();
  const jobId = await createJob(pool, request, owner);
  const { store, temporary } = folder;
  const crewThreads = new CrewThreads({ address, store, temporary }, 0);
  const { threads } = request;
  try {
    const result = await runIndex({
      address,
      folder,
      crewThreads,
      jobId,
      owner,
      threads,
      onProgress,
      signal,
    });
    await finishJob(pool, jobId, { state: 'done', result });
    return result;
  } catch (error) {
    await finishJob(pool, jobId, {
      state: error instanceof StoppedError ? 'stopped' : 'failed',
      error: messageOf(error),
    });
    throw error;
  } finally {
    await crewThreads.close();
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
    `${result.title}, ${result.channel}, build ${result.build}: ${result.files} files, some of them in ${result.containers} archives, ` +
      `${bytesText(result.bytes)}.\n${result.newContents} contents are new, ${bytesText(result.newBytes)}. ` +
      `${result.locked} locked, ${result.unreadable} listed with a problem. ${result.seconds.toFixed(1)} s.\n`,
  );
}
