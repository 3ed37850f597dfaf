import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import { applicationRoot } from '../server/platform/application-root.ts';
import { openDataFolder } from '../server/platform/data-folder.ts';
import { openPool, type Pool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { selectOne } from '../server/platform/database/rows.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { addressUrl } from '../tests/support/shared-database.ts';
import { TestObjectStore } from '../tests/support/object-store.ts';
import { processorSeconds } from './processor-seconds.ts';
import { throughputOf } from './queueing.ts';
import { resultOf, type BenchResult } from './result.ts';
import { databasePids, run } from './running.ts';
import { BenchTree } from './tree.ts';

const million = 1_000_000;
const simulated = 10;
const worvel = join(applicationRoot, 'worvel');

/**
 * What a build costs the machine that brings it in, the one that reads it, the database and the object store, measured with a worker process
 * that has a data folder of its own; and what that says of ten workers on machines of this kind (see queueing.ts).
 */
export async function benchWorkers(say: (line: string) => void, files = 3000): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-workers-'));
  const folder = openDataFolder(join(work, 'first'));
  const objects = new TestObjectStore();
  await objects.open();
  const database = await shareDatabase(folder);
  const pool = openPool(database.address, 2);
  const environment = { ...objects.environment, WORVEL_DATABASE_URL: addressUrl(database.address) };
  const databaseSeconds = (): number => processorSeconds(databasePids(folder.root));
  // The stand-in for an object store runs in this process.
  const storeSeconds = (): number => process.cpuUsage().user / million + process.cpuUsage().system / million;
  try {
    const source = join(work, 'game');
    new BenchTree({ files, bytes: files * 50 * 1024, filesPerArchive: 250 }).writeBuild(source);
    say(`A build of ${files} files arrives`);
    const before = [databaseSeconds(), storeSeconds()] as const;
    const command = '"$0" index "$1" --title One --build 1 --arrive --json --data "$2" && times';
    const arrival = ['-c', command, worvel, source, folder.root];
    const arrivalSeconds = childSeconds((await run('sh', arrival, undefined, environment)).output);
    const arrivalDatabase = databaseSeconds() - before[0];
    const arrivalStore = storeSeconds() - before[1];
    const one = await readWithWorker();
    say(`One worker read it in ${one.seconds.toFixed(1)} s`);
    const contents = one.contents;
    const cores = cpus().length;
    const own = one.workers / contents / cores;
    const stations = [
      { name: 'database', seconds: one.database / contents / cores },
      { name: 'store', seconds: one.store / contents },
    ];
    const found = throughputOf(own, stations, simulated);
    // The stand-in is one process; an object store that answers as many as ask leaves the database to wait for.
    const wide = throughputOf(own, stations.slice(0, 1), simulated);
    for (const [at, { workers, perSecond, speedUp, busy }] of found.entries())
      say(
        `${workers} workers: ${perSecond.toFixed(0)} contents a second, ${speedUp.toFixed(2)} times one; database ${percent(busy.database)} busy, store ${percent(busy.store)}; with a store that never is, ${(wide[at]?.speedUp ?? NaN).toFixed(2)} times`,
      );
    const bytes = await databaseBytes(pool);
    const hoursPerMillion = (seconds: number): number => (seconds / files) * (million / 3600);
    return resultOf(
      'workers',
      {
        files,
        contents,
        arrivalHoursPerMillion: hoursPerMillion(arrivalSeconds),
        arrivalDatabaseHoursPerMillion: hoursPerMillion(arrivalDatabase),
        arrivalStoreHoursPerMillion: hoursPerMillion(arrivalStore),
        readingHoursPerMillion: hoursPerMillion(one.workers),
        readingDatabaseHoursPerMillion: hoursPerMillion(one.database),
        readingStoreHoursPerMillion: hoursPerMillion(one.store),
        databaseGigabytesPerMillion: ((bytes / files) * million) / 1024 ** 3,
        idleDatabaseShare: one.idleDatabaseShare,
        contentsPerSecondOfOne: found[0]?.perSecond ?? NaN,
        contentsPerSecondOfTen: found.at(-1)?.perSecond ?? NaN,
      },
      {
        tenWorkersToOne: found.at(-1)?.speedUp ?? NaN,
        tenWorkersToOneWithWideStore: wide.at(-1)?.speedUp ?? NaN,
      },
      {},
    );

    async function readWithWorker(): Promise<{
      seconds: number;
      contents: number;
      workers: number;
      database: number;
      store: number;
      idleDatabaseShare: number;
    }> {
      const worker = start(join(work, 'worker'), environment);
      try {
        const [databaseBefore, storeBefore, begin] = [databaseSeconds(), storeSeconds(), Date.now()];
        for (;;) {
          const state = await selectOne<{ unread: number }>(
            pool,
            "SELECT COUNT(*) AS unread FROM builds b WHERE b.facts_version IS NULL OR EXISTS (SELECT 1 FROM jobs j WHERE j.build_id = b.id AND j.kind = 'read' AND j.state IN ('waiting', 'running'))",
          );
          if (state?.unread === 0) break;
          if (Date.now() - begin > 300_000)
            throw new PlainError('The workers did not read the build within five minutes.');
          await sleep(100);
        }
        const seconds = (Date.now() - begin) / 1000;
        const [database, store, workers] = [
          databaseSeconds() - databaseBefore,
          storeSeconds() - storeBefore,
          processorSeconds([worker.pid ?? 0]),
        ];
        // What a worker who has nothing to do costs the database by looking.
        const idleBefore = databaseSeconds();
        await sleep(5000);
        const idleDatabaseShare = (databaseSeconds() - idleBefore) / 5;
        const row = await selectOne<{ contents: number }>(
          pool,
          'SELECT COUNT(*) AS contents FROM content_facts',
        );
        return { seconds, contents: row?.contents ?? 0, workers, database, store, idleDatabaseShare };
      } finally {
        const ended = new Promise((resolve) => worker.on('exit', resolve));
        worker.kill('SIGINT');
        await ended;
      }
    }
  } finally {
    await pool.end();
    await database.release();
    await objects.close();
    rmSync(work, { recursive: true, force: true, maxRetries: 10, retryDelay: 200 });
  }
}

function start(data: string, environment: Readonly<Record<string, string>>): ChildProcess {
  return spawn(worvel, ['work', '--data', data], {
    stdio: 'ignore',
    env: { ...process.env, ...environment },
  });
}

/** Seconds that a shell's children have used, from what `times` prints last: `1m2.34s 0m5.67s`. */
function childSeconds(output: string): number {
  const last = output.trim().split('\n').at(-1) ?? '';
  return [...last.matchAll(/(\d+)m([\d.]+)s/g)].reduce(
    (sum, [, minutes, seconds]) => sum + Number(minutes) * 60 + Number(seconds),
    0,
  );
}

async function databaseBytes(pool: Pool): Promise<number> {
  const row = await selectOne<{ bytes: string }>(
    pool,
    'SELECT SUM(data_length + index_length) AS bytes FROM information_schema.tables WHERE table_schema = DATABASE()',
  );
  return Number(row?.bytes ?? 0);
}

function percent(share: number | undefined): string {
  return `${((share ?? 0) * 100).toFixed(0)} %`;
}
