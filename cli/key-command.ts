import { createInterface } from 'node:readline';
import { keyAddedSchema, keyRequestSchema, keyringSchema, type KeptKey } from '../contract/keyring.ts';
import { jobSchema, type JobReport } from '../contract/work.ts';
import { addKey } from '../server/ingest/keys/add-key.ts';
import { listKeyring, removeKey } from '../server/acquire/keyring/keys.ts';
import { loadMasterKey } from '../server/acquire/keyring/master-key.ts';
import { tryKey } from '../server/ingest/keys/try-key.ts';
import {
  UsageError,
  flagOption,
  listOption,
  parseArguments,
  textOption,
  type Arguments,
} from './arguments.ts';
import { printProgress } from './print-progress.ts';
import { printReport } from './report-printing.ts';
import { askJson, dataPath, runningServer } from './session.ts';
import { withDatabase } from './with-database.ts';
import { workHere } from './work-here.ts';
import { followJob } from './work-there.ts';

/** The keyring: `add` reads the key from standard input, where neither a history nor a list of processes shows it. */
export async function keyCommand(args: readonly string[]): Promise<void> {
  const given = parseArguments(args, {
    title: textOption,
    build: listOption,
    form: textOption,
    remark: textOption,
    keep: flagOption,
  });
  const [verb, number, ...rest] = given.positionals;
  const data = dataPath(given.text('data'));
  if (rest.length > 0) throw new UsageError('That is one word too many.');
  if (verb === 'add' && number === undefined) await add(given, data);
  else if (verb === 'list' && number === undefined) await list(given, data);
  else if (verb === 'remove' && /^\d+$/.test(number ?? '')) await remove(Number(number), data);
  else throw new UsageError('After “key” comes add, list, or remove with a number.');
}

async function add(given: Arguments, data: string): Promise<void> {
  const request = keyRequestSchema.safeParse({
    title: given.needed('title'),
    form: given.text('form'),
    builds: given.list('build'),
    remark: given.text('remark'),
    keep: given.flag('keep'),
    key: await readKey(),
  });
  if (!request.success) {
    const issue = request.error.issues[0];
    throw new UsageError(`${issue?.path.join('.') ?? ''}: ${issue?.message ?? ''}.`);
  }
  const json = given.flag('json');
  const server = await runningServer(data);
  if (server) {
    const { jobs } = keyAddedSchema.parse(await askJson(`${server}/api/keyring`, { body: request.data }));
    const reports: (JobReport | null)[] = [];
    for (const id of jobs) {
      const job = jobSchema.parse(await askJson(`${server}/api/work/${id}`));
      reports.push((await followJob(server, job, printProgress)).report);
    }
    printReports(reports, json);
    return;
  }
  await withDatabase(data, async (session) => {
    const added = await addKey(session.pool, loadMasterKey(session.folder.root), request.data, tryKey);
    const reports: (JobReport | null)[] = [];
    for (const id of added.jobs) {
      const work = await workHere(session, id, printProgress);
      reports.push(work.report);
    }
    printReports(reports, json);
  });
}

function printReports(reports: readonly (JobReport | null)[], json: boolean): void {
  if (reports.length === 0)
    printReport({ summary: 'The key is kept. Nothing that is locked opens with it yet.', lines: [] }, json);
  for (const report of reports) printReport(report, json);
}

async function list(given: Arguments, data: string): Promise<void> {
  const server = await runningServer(data);
  const keyring = server
    ? keyringSchema.parse(await askJson(`${server}/api/keyring`))
    : await withDatabase(data, ({ pool }) => listKeyring(pool));
  if (given.flag('json')) {
    process.stdout.write(`${JSON.stringify(keyring)}\n`);
    return;
  }
  for (const key of keyring.keys) process.stdout.write(`${lineOf(key)}\n`);
  for (const { title, channel, build, count } of keyring.locked)
    process.stdout.write(`${title}, ${channel}, build ${build}: ${count} locked\n`);
}

function lineOf({ id, title, form, builds, remark }: KeptKey): string {
  const scope = builds.length === 0 ? 'all builds' : `builds ${builds.join(', ')}`;
  return [`${String(id).padStart(4)}  ${title}`, form, scope, remark]
    .filter((part) => part !== '')
    .join('  ');
}

async function remove(id: number, data: string): Promise<void> {
  await withDatabase(data, ({ pool }) => removeKey(pool, id));
  process.stdout.write(`Key ${id} is gone. What it opened stays as it is.\n`);
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
