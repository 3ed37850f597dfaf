import {
  intakeRequestSchema,
  type IndexLine,
  type IntakeRequest,
  type IntakeResult,
} from '../contract/builds.ts';
import { jobSchema, type Progress } from '../contract/work.ts';
import { bytesText } from '../core/figures.ts';
import { checkSource, normaliseSource } from '../server/ingest/source-path.ts';
import { dataPath, getJson, withApplication, type Connection } from './connection.ts';
import { followReading } from './follow-reading.ts';
import type { CommonOptions } from './options.ts';
import { clearProgress, printProgressJson, showProgress } from './progress.ts';
import { UsageError } from './usage-error.ts';

export interface IndexOptions extends CommonOptions {
  title: string;
  build: string;
  channel: string;
  date?: string;
  replace?: true;
  only: string[];
  without: string[];
  all?: true;
  key: string[];
  root?: string;
  platform?: string;
  threads?: number;
  priority?: number;
  arrive?: true;
  json?: boolean;
}

export async function indexCommand(pasted: string | undefined, options: IndexOptions): Promise<void> {
  const { arrive, json = false } = options;
  const request = requestOf(pasted, options);
  const onProgress = json ? printProgressJson : showProgress;
  const onArrival = json ? undefined : printResult;
  const line = await withApplication(dataPath(options.data), (application) =>
    indexBuild(application, request, { arrive, onProgress, onArrival }),
  );
  if (json && line) process.stdout.write(`${JSON.stringify(line)}\n`);
  else if (line && line.readSeconds !== null)
    process.stdout.write(`Facts were read in ${line.readSeconds.toFixed(1)} s.\n`);
}

/** Brings a build in, and waits until its facts are read, unless it is only to arrive. */
export async function indexBuild(
  application: Connection,
  request: IntakeRequest,
  {
    arrive,
    onProgress,
    onArrival,
  }: {
    arrive?: true | undefined;
    onProgress: (progress: Progress) => void;
    onArrival?: ((result: IntakeResult) => void) | undefined;
  },
): Promise<IndexLine | null> {
  const job = jobSchema.parse(await getJson(application, 'intake', { body: request }));
  const { result } = await application.follow(job, onProgress);
  if (!result) return null;
  onArrival?.(result);
  if (arrive) return { ...result, readSeconds: null };
  const startMs = Date.now();
  await followReading(application, result, onProgress);
  return { ...result, readSeconds: (Date.now() - startMs) / 1000 };
}

/** What the options ask for. @throws UsageError, PlainError where the source is not there */
export function requestOf(
  pasted: string | undefined,
  options: Omit<IndexOptions, keyof CommonOptions | 'arrive' | 'json'>,
): IntakeRequest {
  const { title, build, channel, date, replace, threads, priority, platform, root } = options;
  const request = intakeRequestSchema.safeParse({
    source: pasted === undefined ? undefined : normaliseSource(pasted),
    title,
    channel,
    build,
    releasedAt: date,
    replace: replace ?? false,
    threads,
    priority,
    settings: { platform, contentRoot: root, choice: choiceOf(options), keys: keysOf(options) },
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`--${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  if (request.data.source !== undefined) checkSource(request.data.source);
  return request.data;
}

/** What the options choose; nothing where none of them was said, so that the choice of the build before holds. */
function choiceOf({
  only,
  without,
  all,
}: Pick<IndexOptions, 'only' | 'without' | 'all'>): { only: string[]; without: string[] } | undefined {
  return all || only.length + without.length > 0 ? { only, without } : undefined;
}

/** Numbers of the keys that alone are tried; nothing where none was said, so that those of the build before hold. */
function keysOf({ key }: Pick<IndexOptions, 'key'>): number[] | undefined {
  return key.length > 0 ? key.map(Number) : undefined;
}

function printResult(result: IntakeResult): void {
  clearProgress();
  process.stdout.write(
    `${result.title}, ${result.channel}, build ${result.build}: ${result.files} files, some of them in ${result.containers} archives, ` +
      `${bytesText(result.bytes)}.\n${result.newContents} contents are new, ${bytesText(result.newBytes)}. ` +
      `${result.leftOutFiles > 0 ? `${result.leftOutFiles} left out, ${bytesText(result.leftOutBytes)}. ` : ''}${result.locked} locked, ${result.unreadable} listed with a problem. ${result.seconds.toFixed(1)} s.\n`,
  );
}
