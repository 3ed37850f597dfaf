import { intakeRequestSchema, type IntakeResult } from '../contract/builds.ts';
import { jobSchema } from '../contract/work.ts';
import { bytesText } from '../core/figures.ts';
import { checkSource, normaliseSource } from '../server/ingest/source-path.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
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
  json?: boolean;
}

export async function indexCommand(pasted: string | undefined, options: IndexOptions): Promise<void> {
  const { title, build, channel, date, replace, threads, priority, platform, root, json = false } = options;
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
  const { result } = await withApplication(dataPath(options.data), async (application) =>
    application.follow(
      jobSchema.parse(await getJson(application, 'intake', { body: request.data })),
      json ? printProgressJson : showProgress,
    ),
  );
  if (!result) return;
  if (json) process.stdout.write(`${JSON.stringify(result)}\n`);
  else printResult(result);
}

/** What the options choose; nothing where none of them was said, so that the choice of the build before holds. */
function choiceOf({ only, without, all }: IndexOptions): { only: string[]; without: string[] } | undefined {
  return all || only.length + without.length > 0 ? { only, without } : undefined;
}

/** Numbers of the keys that alone are tried; nothing where none was said, so that those of the build before hold. */
function keysOf({ key }: IndexOptions): number[] | undefined {
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
