import { mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { IntakeResult } from '../contract/builds.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { damagedFormats, writeDamaged } from './damage.ts';
import { MemoryWatch } from './memory.ts';
import { resultOf, type BenchResult } from './result.ts';
import { databasePids, run } from './running.ts';

/**
 * Thousands of damaged archives of every format in one build: nothing crashes, hangs, or writes outside of the data
 * folder, and what is whole beside them is read. Beside it `7zz t` over the same files, one at a time.
 */
export async function benchDamage(say: (line: string) => void, each = 250): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-damage-'));
  try {
    const sources = join(work, 'sources');
    mkdirSync(sources);
    const cases = writeDamaged(sources, join(work, 'damaged'), each, 5);
    say(`${cases} damaged archives of ${damagedFormats.length} formats`);
    const before = [...readdirSync(work), ...readdirSync(sources)].join();
    const data = join(work, 'data');
    const pids = new Set<number>();
    const memory = new MemoryWatch(() => [...pids, ...databasePids(data)]);
    const { seconds, output } = await run(
      join(applicationRoot, 'worvel'),
      ['index', join(work, 'damaged'), '--title', 'Damaged', '--build', '1', '--data', data, '--json'],
      pids,
    );
    const peakMebibytes = memory.stop() / 1024 ** 2;
    const result = JSON.parse(output) as IntakeResult;
    rmSync(data, { recursive: true });
    const isClean = [...readdirSync(work), ...readdirSync(sources)].join() === before;
    say('The same files with 7zz');
    const other = await run('sh', [
      '-c',
      'for file in "$1"/*; do 7zz t -p "$file" </dev/null >/dev/null 2>&1; done; true',
      'sh',
      join(work, 'damaged'),
    ]);
    const figures = {
      cases,
      seconds,
      otherSeconds: other.seconds,
      peakMebibytes,
      files: result.files,
      withProblems: result.unreadable,
      writtenElsewhere: isClean ? 0 : 1,
    };
    return resultOf(
      'damage',
      figures,
      { toOther: seconds / other.seconds, problemsToCases: result.unreadable / cases },
      {
        writtenElsewhere: { what: 'files that were written elsewhere', most: 0 },
        files: { what: 'files and entries that were found all the same', least: cases },
        // Two thirds and more have turned bits that matter, or lack their end.
        problemsToCases: { what: 'problems that were told / damaged archives', least: 1 / 3 },
      },
    );
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}
