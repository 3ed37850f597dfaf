import { spawn, spawnSync, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { indexLineSchema } from '../contract/builds.ts';
import type { Summary } from '../contract/findings.ts';
import { sendRequest } from '../cli/server-client.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { MemoryWatch } from './memory.ts';
import { resultOf, type BenchResult } from './result.ts';
import { databasePids, median, run, waitFor, type Timed } from './running.ts';
import { BenchTree } from './tree.ts';

const mebibyte = 1024 ** 2;
/** No housekeeping in the background: it would run beside whatever is timed next. */
const gitSettings = [
  'user.name=bench',
  'user.email=bench@localhost',
  'gc.auto=0',
  'maintenance.auto=false',
].flatMap((setting) => ['-c', setting]);

const asked = {
  firstArrivalToGit: { what: 'a first build arrives / `git init` and `git add -A`', most: 0.35, quick: 1.5 },
  firstReadToGit: { what: 'all of it is read / the same', most: 0.6, quick: 4 },
  secondArrivalToGit: { what: 'a second build arrives / `git add -A`', most: 0.8, quick: 8 },
  diffToGit: { what: 'a diff / `git diff --cached -M100% --raw`', most: 1, quick: 3 },
  peakMebibytes: { what: 'memory of all processes, MiB', most: 1024, quick: 2048 },
  stopSeconds: { what: 'the server ends while it works, s', most: 1, quick: 4 },
};

/**
 * Indexing and diffing against git, a general-purpose program that also stores each content once and tells what
 * moved. Both see an installed game that is updated in place, and may trust the system about files that were not
 * touched; git sees it with the archives unpacked. In turn: first index and first `git add`, second and second, diff and `git diff`. The commands run as a
 * person runs them, beside a running server; git is told to use as many threads as there are cores, its default.
 */
export async function benchIndex(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const [files, bytes] = [Math.round(20_000 * share), 1024 * mebibyte * share];
  const work = mkdtempSync(join(tmpdir(), 'worvel-bench-'));
  const data = join(work, 'data');
  const tree = new BenchTree({ files, bytes, filesPerArchive: 250 });
  const port = 20_000 + (process.pid % 20_000);
  let server: ChildProcess | null = null;
  try {
    say(`Making ${files} files of ${(tree.bytes / mebibyte).toFixed(0)} MiB in all`);
    const game = join(work, 'game');
    tree.writeBuild(game);
    const repository = join(work, 'repository');
    mkdirSync(repository);
    tree.writeUnpacked(repository);
    spawnSync('sync');

    server = spawn(join(applicationRoot, 'worvel'), ['serve', '--port', String(port), '--data', data], {
      stdio: 'ignore',
    });
    await waitFor(`http://127.0.0.1:${port}/api/health`);
    // The server, the command that is running, and the database; not this process, nor git's.
    const ownPids = new Set([server.pid ?? 0]);
    const memory = new MemoryWatch(() => [...ownPids, ...databasePids(data)]);
    const worvel = (...args: string[]): Promise<Timed> =>
      run(join(applicationRoot, 'worvel'), [...args, '--data', data, '--title', 'Bench', '--json'], ownPids);
    const git = (...args: string[]): Promise<Timed> =>
      run('git', ['-C', repository, ...gitSettings, ...args]);

    say('First index');
    const first = await worvel('index', game, '--build', '1');
    spawnSync('sync');
    const firstArrival = arrivalSeconds(first);
    say(`${firstArrival.toFixed(2)} s, all read after ${first.seconds.toFixed(2)} s. First git init and add`);
    await git('init', '-q');
    const gitFirst = await git('add', '-A');
    say(`${gitFirst.seconds.toFixed(2)} s. Second index`);
    await git('commit', '-q', '-m', 'first');
    const before = tree.state();
    const expected = tree.advance();
    tree.writeBuild(game, before);
    tree.writeUnpacked(repository, before);
    spawnSync('sync');
    const second = await worvel('index', game, '--build', '2');
    const secondArrival = arrivalSeconds(second);
    say(`${secondArrival.toFixed(2)} s, all read after ${second.seconds.toFixed(2)} s. Second git add`);
    const gitSecond = await git('add', '-A');
    say(`${gitSecond.seconds.toFixed(2)} s. Diff`);

    // The diff is asked of the running server, as the interface and the command do; the command, which has to start
    // first, is timed beside it. Both take milliseconds and want more than one look: the median of nine, in turn.
    const diffSeconds: number[] = [];
    const commandSeconds: number[] = [];
    const gitDiffSeconds: number[] = [];
    let answer = '';
    for (let round = 0; round < 9; round++) {
      const asked = process.hrtime.bigint();
      answer = (await sendRequest(`http://127.0.0.1:${port}/api/diff?title=Bench&channel=main&from=1&to=2`))
        .body;
      diffSeconds.push(Number(process.hrtime.bigint() - asked) / 1e9);
      gitDiffSeconds.push((await git('diff', '--cached', '-M100%', '--raw')).seconds);
      commandSeconds.push((await worvel('diff', '--from', '1', '--to', '2')).seconds);
    }
    const [firstDiffSeconds = 0] = diffSeconds;
    const peakBytes = memory.stop();
    // It is comparing what changed by now.
    const stopSeconds = await secondsToStop(server);
    server = null;

    const { summary } = JSON.parse(answer.trimEnd().split('\n').at(-1) ?? '') as { summary: Summary };
    for (const status of ['changed', 'moved', 'added', 'removed'] as const) {
      if (summary[status] !== expected[status]) {
        throw new PlainError(
          `The diff found ${summary[status]} ${status}, and ${expected[status]} were made.`,
        );
      }
    }
    const figures = {
      files: tree.files,
      firstArrivalSeconds: firstArrival,
      firstReadSeconds: first.seconds,
      gitFirstAddSeconds: gitFirst.seconds,
      secondArrivalSeconds: secondArrival,
      secondReadSeconds: second.seconds,
      gitSecondAddSeconds: gitSecond.seconds,
      diffSeconds: median(diffSeconds),
      gitDiffSeconds: median(gitDiffSeconds),
      firstDiffSeconds,
      diffCommandSeconds: median(commandSeconds),
      peakMebibytes: peakBytes / mebibyte,
      stopSeconds,
    };
    const ratios = {
      firstArrivalToGit: firstArrival / gitFirst.seconds,
      firstReadToGit: first.seconds / gitFirst.seconds,
      secondArrivalToGit: secondArrival / gitSecond.seconds,
      diffToGit: figures.diffSeconds / figures.gitDiffSeconds,
    };
    return resultOf('index', figures, ratios, asked);
  } finally {
    server?.kill('SIGINT');
    if (server) await new Promise((resolve) => server?.on('exit', resolve));
    rmSync(work, { recursive: true, force: true });
  }
}

/** How long the command took until the build was there; what it took to read it comes after that. */
function arrivalSeconds({ seconds, output }: Timed): number {
  return seconds - (indexLineSchema.parse(JSON.parse(output)).readSeconds ?? 0);
}

async function secondsToStop(server: ChildProcess): Promise<number> {
  const ended = new Promise((resolve) => server.on('exit', resolve));
  const asked = process.hrtime.bigint();
  server.kill('SIGINT');
  await ended;
  return Number(process.hrtime.bigint() - asked) / 1e9;
}
