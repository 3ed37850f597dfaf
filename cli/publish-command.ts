import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { createWriteStream } from 'node:fs';
import { resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { editionsSchema, startedEditionSchema } from '../contract/catalogue.ts';
import { jobSchema } from '../contract/work.ts';
import { readSums, sumsName } from '../server/publishing/editions/site-folder.ts';
import { publicKeyName, signatureName, verifyEdition } from '../server/publishing/editions/verify-edition.ts';
import { zipOf } from '../server/hauls/zip.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { findTitle } from './find-title.ts';
import type { CommonOptions } from './options.ts';
import { clearProgress, showProgress } from './progress.ts';

export interface PublishOptions extends CommonOptions {
  title: string;
  out: string;
  /** Also as one file. */
  zip?: string;
  /** A command of the team's own that takes the folder further. */
  andThen?: string;
  backTo?: number;
  json?: boolean;
}

/** Publishes an edition to a folder, and hands that on. */
export async function publishCommand(options: PublishOptions): Promise<void> {
  const out = resolve(options.out);
  const edition = await withApplication(dataPath(options.data), async (application) => {
    const { id } = await findTitle(application, options.title);
    const body = { folder: out, backTo: options.backTo ?? null };
    const { job } = startedEditionSchema.parse(await getJson(application, `titles/${id}/publish`, { body }));
    try {
      const ended = await application.follow(
        jobSchema.parse(await getJson(application, `work/${job}`)),
        showProgress,
      );
      if (!options.json && ended.report)
        process.stdout.write(`${[ended.report.summary, ...ended.report.lines].join('\n')}\n`);
    } finally {
      clearProgress();
    }
    return editionsSchema.parse(await getJson(application, `titles/${id}/editions`))[0];
  });
  if (options.json)
    process.stdout.write(
      `${JSON.stringify({ edition: edition?.number, entries: edition?.entries, folder: out, changes: edition?.changes })}\n`,
    );
  if (options.zip !== undefined) {
    const names = [...(await readSums(out)).keys(), sumsName, signatureName, publicKeyName];
    await pipeline(zipOf(out, names), createWriteStream(resolve(options.zip)));
  }
  if (options.andThen !== undefined) await handOn(options.andThen, out);
}

/** Runs a command of the team's own in the folder of the site. @throws PlainError where it ends with anything but 0 */
async function handOn(command: string, folder: string): Promise<void> {
  const child = spawn(command, {
    shell: true,
    cwd: folder,
    stdio: ['ignore', 'inherit', 'inherit'],
    env: { ...process.env, WORVEL_SITE: folder },
  });
  const [code] = (await once(child, 'exit')) as [number | null];
  if (code !== 0)
    throw new PlainError(`The edition is published; “${command}” ended with ${code ?? 'a signal'}.`);
}

/** Checks an edition: its signature, and every file against its sum. Ends with 1 where something is wrong. */
export async function verifyCommand(folder: string, { json }: { json?: boolean }): Promise<void> {
  const { files, problems, keySum } = await verifyEdition(resolve(folder));
  if (json) process.stdout.write(`${JSON.stringify({ files, problems, keySum })}\n`);
  else
    process.stdout.write(
      `${[
        ...problems,
        problems.length === 0
          ? `All ${files.toLocaleString('en')} files are as they were signed.`
          : `${problems.length.toLocaleString('en')} of them are not as they were signed.`,
        `The key that signed it has SHA-256 ${keySum}.`,
      ].join('\n')}\n`,
    );
  if (problems.length > 0) process.exitCode = 1;
}
