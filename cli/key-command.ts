import { createInterface } from 'node:readline';
import { keyAddedSchema, keyRequestSchema, keyringSchema, type KeptKey } from '../contract/keyring.ts';
import { jobSchema, type JobReport } from '../contract/work.ts';
import { dataPath, getJson, withApplication } from './connection.ts';
import { followReadings } from './follow-reading.ts';
import type { CommonOptions } from './options.ts';
import { printReport } from './print-report.ts';
import { showProgress } from './progress.ts';
import { UsageError } from './usage-error.ts';

export interface KeyOptions extends CommonOptions {
  json?: boolean;
}

export interface AddKeyOptions extends KeyOptions {
  title: string;
  build: string[];
  form?: string;
  remark?: string;
  keep?: true;
}

/** Takes a key from standard input, where neither a history nor a list of processes shows it. */
export async function addKeyCommand({
  title,
  build,
  form,
  remark,
  keep,
  json = false,
  data,
}: AddKeyOptions): Promise<void> {
  const request = keyRequestSchema.safeParse({
    title,
    form,
    builds: build,
    remark,
    keep,
    key: await readKey(),
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  const reports = await withApplication(dataPath(data), async (application) => {
    const { jobs } = keyAddedSchema.parse(await getJson(application, 'keyring', { body: request.data }));
    const reports: (JobReport | null)[] = [];
    for (const id of jobs) {
      const job = jobSchema.parse(await getJson(application, `work/${id}`));
      reports.push((await application.follow(job, showProgress)).report);
    }
    if (jobs.length > 0) await followReadings(application, title);
    return reports;
  });
  if (reports.length === 0)
    printReport({ summary: 'The key is kept. Nothing that is locked opens with it yet.', lines: [] }, json);
  for (const report of reports) printReport(report, json);
}

export async function listKeysCommand({ json, data }: KeyOptions): Promise<void> {
  const keyring = keyringSchema.parse(
    await withApplication(dataPath(data), (application) => getJson(application, 'keyring')),
  );
  if (json) {
    process.stdout.write(`${JSON.stringify(keyring)}\n`);
    return;
  }
  for (const key of keyring.keys) process.stdout.write(`${lineOf(key)}\n`);
  for (const { title, channel, build, count } of keyring.locked)
    process.stdout.write(`${title}, ${channel}, build ${build}: ${count} locked\n`);
}

export async function removeKeyCommand(number: string, { data }: KeyOptions): Promise<void> {
  if (!/^\d+$/.test(number)) throw new UsageError(`“${number}” is no number of a key.`);
  await withApplication(dataPath(data), (application) =>
    application.getText(`keyring/${number}`, { method: 'DELETE' }),
  );
  process.stdout.write(`Key ${number} is gone. What it opened stays as it is.\n`);
}

function lineOf({ id, title, form, builds, remark }: KeptKey): string {
  const scope = builds.length === 0 ? 'all builds' : `builds ${builds.join(', ')}`;
  return [`${String(id).padStart(4)}  ${title}`, form, scope, remark]
    .filter((part) => part !== '')
    .join('  ');
}

/** One line of standard input. */
async function readKey(): Promise<string> {
  if (process.stdin.isTTY) process.stderr.write('Key: ');
  const lines = createInterface({ input: process.stdin, terminal: false });
  for await (const line of lines) {
    lines.close();
    return line;
  }
  throw new UsageError('The key is read from standard input, and there was none.');
}
