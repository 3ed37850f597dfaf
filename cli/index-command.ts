import { intakeRequestSchema, type IntakeRequest, type IntakeResult } from '../contract/builds.ts';
import { bytesText } from '../core/figures.ts';
import type { Progress } from '../contract/work.ts';
import { checkSource, normaliseSource } from '../server/ingest/source-path.ts';
import {
  UsageError,
  flagOption,
  listOption,
  parseArguments,
  textOption,
  type Arguments,
} from './arguments.ts';
import { workThere } from './work-there.ts';
import { printProgress } from './print-progress.ts';
import { dataPath, runningServer } from './session.ts';

export async function indexCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {
    title: textOption,
    build: textOption,
    channel: textOption,
    threads: textOption,
    date: textOption,
    replace: flagOption,
    platform: textOption,
    root: textOption,
    only: listOption,
    without: listOption,
    key: listOption,
    all: flagOption,
    priority: textOption,
  });
  const [pasted, ...rest] = given.positionals;
  if (rest.length > 0) throw new UsageError('One SOURCE is enough, a folder or an archive.');
  const request = intakeRequestSchema.safeParse({
    source: pasted === undefined ? undefined : normaliseSource(pasted),
    title: given.needed('title'),
    channel: given.text('channel'),
    build: given.needed('build'),
    releasedAt: given.text('date'),
    replace: given.flag('replace'),
    threads: given.count('threads', 1, 256),
    priority: given.count('priority', -9, 9),
    settings: {
      platform: given.text('platform'),
      contentRoot: given.text('root'),
      choice: choiceOf(given),
      keys: keysOf(given),
    },
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`--${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  if (request.data.source !== undefined) checkSource(request.data.source);
  const json = given.flag('json');
  const data = dataPath(given.text('data'));
  const onProgress = json ? printProgressLine : printProgress;
  const server = await runningServer(data);
  const result = server
    ? (await workThere(server, 'intake', { body: request.data }, onProgress)).result
    : await indexWithoutServer(data, request.data, onProgress);
  if (!result) return;
  if (json) process.stdout.write(`${JSON.stringify(result)}\n`);
  else printResult(result);
}

/** What the options choose; nothing where none of them was said, so that the choice of the build before holds. */
function choiceOf(given: Arguments): { only: string[]; without: string[] } | undefined {
  const only = given.list('only');
  const without = given.list('without');
  return given.flag('all') || only.length + without.length > 0 ? { only, without } : undefined;
}

/** Numbers of the keys that alone are tried; nothing where none was said, so that those of the build before hold. */
function keysOf(given: Arguments): number[] | undefined {
  const keys = given.list('key');
  return keys.length > 0 ? keys.map(Number) : undefined;
}

/** What it takes to index is loaded only where this process has to. */
async function indexWithoutServer(
  data: string,
  request: IntakeRequest,
  onProgress: (progress: Progress) => void,
): Promise<IntakeResult> {
  const [{ withDatabase }, { indexHere }] = await Promise.all([
    import('./with-database.ts'),
    import('./work-here.ts'),
  ]);
  return withDatabase(data, (session) => indexHere(session, request, onProgress));
}

function printProgressLine(progress: Progress): void {
  process.stderr.write(`${JSON.stringify(progress)}\n`);
}

function printResult(result: IntakeResult): void {
  if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
  process.stdout.write(
    `${result.title}, ${result.channel}, build ${result.build}: ${result.files} files, some of them in ${result.containers} archives, ` +
      `${bytesText(result.bytes)}.\n${result.newContents} contents are new, ${bytesText(result.newBytes)}. ` +
      `${result.leftOutFiles > 0 ? `${result.leftOutFiles} left out, ${bytesText(result.leftOutBytes)}. ` : ''}${result.locked} locked, ${result.unreadable} listed with a problem. ${result.seconds.toFixed(1)} s.\n`,
  );
}
