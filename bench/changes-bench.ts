import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pairByLikeness } from '../core/findings/likeness/pair.ts';
import type { EvidenceLine } from '../contract/findings.ts';
import { findBuild } from '../server/acquire/builds/builds.ts';
import { openDataFolder } from '../server/platform/data-folder.ts';
import { openPool } from '../server/platform/database/pool.ts';
import { shareDatabase } from '../server/platform/database/private-mariadb.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { findBetween } from '../server/changes/findings/differences.ts';
import type { Operation } from '../server/decode/operations.ts';
import { ReaderPool } from '../server/decode/reader-pool.ts';
import { ReaderProcesses } from '../server/decode/reader-processes.ts';
import { hashOf } from '../server/store/hash.ts';
import { openStore } from '../server/store/content-store.ts';
import type { LocalContent } from '../server/store/local-content.ts';
import { makePictures, side, wavySheet } from './made-contents.ts';
import { MillionServer } from './million-server.ts';
import { insertUpdate, manyPaths } from './million-paths.ts';
import { likenessSet } from './likeness-set.ts';
import { writeNoiseSet } from './noise-set.ts';
import { resultOf, type BenchResult } from './result.ts';
import { run } from './running.ts';

type Comparison = Extract<Operation, { type: 'compare' }>;

type Say = (line: string) => void;

const mostDistinctPairs = 100;

const asked = {
  picturesToCompare: { what: 'evidence of pairs of pictures / `compare -metric AE`', most: 0.4, quick: 3 },
  modelSeconds: { what: 'two models of 100,352 triangles, s', most: 1 },
  soundSeconds: { what: 'two sounds of 3 minutes, s', most: 0.8 },
  findingsSeconds: { what: 'findings of two builds of a million, s', most: 0.6 },
  firstPageMilliseconds: { what: 'their first page, ms', most: 300 },
  likenessSeconds: { what: 'likeness of 100,000 gone and 100,000 new, s', most: 10 },
  likenessMebibytes: { what: 'memory of that, MiB', most: 1536 },
  likenessFoundShare: { what: 'known renames that are found', least: 0.95, quick: 0.9 },
  likenessWrongShare: { what: 'pairs that are wrong', most: 0.02, quick: 0.05 },
  changesHidden: { what: 'changes hidden as noise', most: 0, quick: 0 },
  noiseFoldedShare: { what: 'noise that is folded away', least: 0.99, quick: 0.9 },
};

/**
 * What changed: findings of two builds of a million, evidence of pictures beside ImageMagick's `compare` over the same pairs
 * by as many processes, of two large models and two long sounds, likeness over a seeded set with known renames, and how well
 * noise is told from changes on open data.
 */
export async function benchChanges(say: Say, share = 1): Promise<BenchResult> {
  const work = mkdtempSync(join(tmpdir(), 'worvel-changes-'));
  try {
    const likeness = timeLikeness(say, Math.round(100_000 * share));
    const evidence = await timeEvidence(work, say, Math.round(1000 * share));
    const noise = await countNoise(work, say, share < 0.5 ? 10 : 1);
    const million = await timeMillion(work, say, Math.round(1_000_000 * share));
    const figures = { ...likeness, ...evidence.figures, ...noise, ...million.figures };
    return resultOf('changes', figures, { ...evidence.ratios, ...million.ratios }, asked);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

function timeLikeness(
  say: Say,
  count: number,
): Record<'likenessSeconds' | 'likenessMebibytes' | 'likenessFoundShare' | 'likenessWrongShare', number> {
  const { gone, fresh, truth } = likenessSet(count);
  const begin = performance.now();
  const pairs = pairByLikeness(gone, fresh);
  const likenessSeconds = (performance.now() - begin) / 1000;
  const right = pairs.filter(({ path, oldPath }) => truth.get(path) === oldPath).length;
  const found = {
    likenessSeconds,
    // The most that this process ever had, the set itself included.
    likenessMebibytes: process.resourceUsage().maxRSS / 1024,
    likenessFoundShare: right / Math.max(1, truth.size),
    likenessWrongShare: (pairs.length - right) / Math.max(1, pairs.length),
  };
  say(
    `Likeness over ${gone.length} and ${fresh.length}: ${likenessSeconds.toFixed(1)} s, ${right} of ${truth.size} renames found, ${pairs.length - right} wrong`,
  );
  return found;
}

async function timeEvidence(
  work: string,
  say: Say,
  count: number,
): Promise<{
  figures: Record<
    'picturePairs' | 'pictureSeconds' | 'compareSeconds' | 'modelSeconds' | 'soundSeconds',
    number
  >;
  ratios: { picturesToCompare: number };
}> {
  const data = join(work, 'evidence');
  const distinctPairs = Math.min(mostDistinctPairs, Math.max(10, count));
  const [older, newer] = [join(work, 'older'), join(work, 'newer')];
  for (const folder of [older, newer]) mkdirSync(folder);
  say(`Making ${distinctPairs} pairs of pictures of ${side} x ${side}`);
  await makePictures(older, distinctPairs);
  // A shade over a third, and a painted corner.
  await makePictures(newer, distinctPairs, (pixels, number) => {
    for (let at = 0; at < pixels.length / 3; at += 3) pixels[at] = Math.max(0, (pixels[at] ?? 0) - 6);
    for (let y = 700; y < 900; y++) pixels.fill(40 + number, (y * side + 600) * 3, (y * side + 800) * 3);
  });
  const folder = openDataFolder(data);
  const database = await shareDatabase(folder);
  const pool = openPool(database.address, 2);
  const readers = new ReaderPool(new ReaderProcesses(0), { readers: 2, seconds: 120 });
  try {
    const { migrate } = await import('../server/platform/database/migrate.ts');
    const { readFileSync } = await import('node:fs');
    await migrate(pool);
    const kept = openStore(pool, folder.store);
    const store = async (bytes: Uint8Array): Promise<LocalContent> => {
      const hash = hashOf(bytes);
      await kept.putMany([{ hash, bytes }]);
      return kept.getLocal(hash.toString('hex'));
    };
    const job = (format: string, old: LocalContent, now: LocalContent): Comparison => ({
      type: 'compare',
      old: { path: `a.${format}`, format, content: old },
      content: { path: `a.${format}`, format, content: now },
    });
    const jobs: Comparison[] = [];
    for (let number = 0; number < distinctPairs; number++)
      jobs.push(
        job(
          'png',
          await store(readFileSync(join(older, `${number}.png`))),
          await store(readFileSync(join(newer, `${number}.png`))),
        ),
      );
    const [models, sounds] = [
      job('glb', await store(await wavySheet(224)), await store(await wavySheet(224, 0.08))),
      job('wav', await store(longWave(0)), await store(longWave(60))),
    ];
    const timed = async (wanted: readonly Comparison[]): Promise<number> => {
      const begin = performance.now();
      for (const { compared, reason } of await Promise.all(
        wanted.map((one) => readers.run(one, async () => null)),
      ))
        if (!compared) throw new Error(reason ?? 'not compared');
      return (performance.now() - begin) / 1000;
    };
    const smallSheets = job('glb', await store(await wavySheet(8)), await store(await wavySheet(8, 0.1)));
    const shortWaves = job('wav', await store(longWave(0, 2)), await store(longWave(1, 2)));
    await timed([...jobs.slice(0, 4), smallSheets, smallSheets, shortWaves, shortWaves]);
    await kept.close();
    const rounds = Math.max(1, Math.round(count / distinctPairs));
    const all = Array.from({ length: rounds }, () => jobs).flat();
    const pictureSeconds = await timed(all);
    say(`Evidence of ${all.length} pairs of pictures: ${pictureSeconds.toFixed(1)} s`);
    const script = `seq 0 ${all.length - 1} | xargs -P 2 -I {} sh -c 'echo "$(compare -metric AE "$0/$(({} % ${distinctPairs})).png" "$1/$(({} % ${distinctPairs})).png" null: 2>&1)"' ${older} ${newer}`;
    const { seconds: compareSeconds, output: counts } = await run('sh', ['-c', script], undefined, {
      MAGICK_THREAD_LIMIT: '1',
    });
    if (
      counts
        .trim()
        .split(/\s+/)
        .filter((count) => Number(count) > 0).length !== all.length
    )
      throw new Error(`compare did not count every pair: ${counts.slice(0, 200)}`);
    say(`compare -metric AE over the same pairs, two at a time: ${compareSeconds.toFixed(1)} s`);
    const modelSeconds = await timed([models]);
    const soundSeconds = await timed([sounds]);
    say(
      `Two models of 100,352 triangles: ${modelSeconds.toFixed(2)} s; two sounds of 3 minutes: ${soundSeconds.toFixed(2)} s`,
    );
    return {
      figures: { picturePairs: all.length, pictureSeconds, compareSeconds, modelSeconds, soundSeconds },
      ratios: { picturesToCompare: pictureSeconds / compareSeconds },
    };
  } finally {
    readers.close();
    await pool.end();
    await database.release();
  }
}

/** Three minutes of stereo at 44.1 kHz; from some second on another tune. */
function longWave(otherFrom: number, seconds = 180): Uint8Array {
  const frames = 44_100 * seconds;
  const bytes = new Uint8Array(44 + frames * 4);
  const view = new DataView(bytes.buffer);
  new TextEncoder().encodeInto('RIFF', bytes);
  view.setUint32(4, bytes.length - 8, true);
  bytes.set(new TextEncoder().encode('WAVEfmt '), 8);
  view.setUint32(16, 16, true);
  for (const [at, value] of [
    [20, 1],
    [22, 2],
    [32, 4],
    [34, 16],
  ] as const)
    view.setUint16(at, value, true);
  view.setUint32(24, 44_100, true);
  view.setUint32(28, 176_400, true);
  bytes.set(new TextEncoder().encode('data'), 36);
  view.setUint32(40, frames * 4, true);
  for (let frame = 0; frame < frames; frame++) {
    const time = frame / 44_100;
    const isOther = otherFrom > 0 && time > otherFrom && time < otherFrom + 8;
    const hertz = (isOther ? 311 : 220) * (1 + (Math.floor(time * 2) % 5) / 4);
    const value = Math.sin(2 * Math.PI * hertz * time) * Math.exp(-((time * 2) % 1) * 3) * 12_000;
    view.setInt16(44 + frame * 4, value, true);
    view.setInt16(46 + frame * 4, value * 0.8, true);
  }
  return bytes;
}

/** Of what was only packed otherwise, how much is folded away; and of what was changed, how much is hidden by mistake. */
async function countNoise(
  work: string,
  say: Say,
  every: number,
): Promise<Record<'noiseFiles' | 'noiseFoldedShare' | 'changedFiles' | 'changesHidden', number>> {
  const [older, newer, data] = [join(work, 'noise-1'), join(work, 'noise-2'), join(work, 'noise')];
  const treatments = await writeNoiseSet(older, newer, every);
  const worvel = join(applicationRoot, 'worvel');
  for (const [folder, label] of [
    [older, '1'],
    [newer, '2'],
  ] as const)
    await run(worvel, ['index', folder, '--title', 'Noise', '--build', label, '--data', data, '--json']);
  const { output } = await run(worvel, [
    'diff',
    '--title',
    'Noise',
    '--from',
    '1',
    '--to',
    '2',
    '--evidence',
    '--json',
    '--data',
    data,
  ]);
  const folded = new Map(
    output
      .trimEnd()
      .split('\n')
      .slice(0, -1)
      .map((line) => JSON.parse(line) as EvidenceLine)
      .map(({ path, foldedBy }) => [path, foldedBy !== null]),
  );
  const of = (wanted: (treatment: string) => boolean): string[] =>
    [...treatments].filter(([, treatment]) => wanted(treatment)).map(([path]) => path);
  const noise = of((treatment) => treatment === 'repacked' || treatment === 'recompressed');
  const changed = of((treatment) => treatment === 'changed');
  const missed = noise.filter((path) => folded.get(path) === false);
  const hidden = changed.filter((path) => folded.get(path) !== false);
  const share = 1 - missed.length / Math.max(1, noise.length);
  say(
    `Noise: ${noise.length - missed.length} of ${noise.length} folded away; ${hidden.length} of ${changed.length} changes hidden${hidden.length > 0 ? `: ${hidden.slice(0, 5).join(', ')}` : ''}`,
  );
  if (missed.length > 0) say(`Shown though it is noise: ${missed.slice(0, 8).join(', ')}`);
  return {
    noiseFiles: noise.length,
    noiseFoldedShare: share,
    changedFiles: changed.length,
    changesHidden: hidden.length,
  };
}

async function timeMillion(
  work: string,
  say: Say,
  count: number,
): Promise<{
  figures: Record<'paths' | 'findings' | 'findingsSeconds' | 'firstPageMilliseconds', number>;
  ratios: { findingsToJoin: number };
}> {
  const data = join(work, 'million');
  const house = new MillionServer(data);
  say(`Putting two builds of ${count} paths into a database`);
  let findingsSeconds = NaN;
  let findings = 0;
  await house.prepare(count, false, async (pool) => {
    await insertUpdate(pool);
    const [from, to] = [await findBuild(pool, 1, '1'), await findBuild(pool, 1, '2')];
    const times: number[] = [];
    for (let round = 0; round < 3; round++) {
      const begin = performance.now();
      findings = (await findBetween(pool, from, to)).findings.length;
      times.push((performance.now() - begin) / 1000);
    }
    findingsSeconds = times.sort((a, b) => a - b)[1] ?? NaN;
  });
  say(`${findings} findings in ${findingsSeconds.toFixed(2)} s`);
  const listings = [join(work, 'paths-1'), join(work, 'paths-2')];
  const lines = [...manyPaths(count)].map(
    (path) => `${path}\t${hashOf(Buffer.from(path)).toString('hex').slice(0, 16)}`,
  );
  writeFileSync(listings[0] ?? '', `${lines.join('\n')}\n`);
  writeFileSync(
    listings[1] ?? '',
    `${lines.map((line, at) => (at % 50 === 0 ? `${line}x` : line)).join('\n')}\n`,
  );
  const join2 = (
    await run('sh', [
      '-c',
      'LC_ALL=C sort "$0" > "$0.s" & LC_ALL=C sort "$1" > "$1.s"; wait; LC_ALL=C comm -3 "$0.s" "$1.s" | wc -l',
      ...listings,
    ])
  ).seconds;
  try {
    await house.serve();
    const query = { from: '1', to: '2', limit: '200' };
    await house.timed('findings', query);
    const pages: number[] = [];
    for (let round = 0; round < 9; round++)
      pages.push(await house.timed('findings', { ...query, kind: round % 2 === 0 ? '' : 'picture' }));
    const firstPage = pages.sort((a, b) => a - b)[4] ?? NaN;
    say(`First page ${(firstPage * 1000).toFixed(0)} ms`);
    return {
      figures: { paths: count, findings, findingsSeconds, firstPageMilliseconds: firstPage * 1000 },
      ratios: { findingsToJoin: findingsSeconds / join2 },
    };
  } finally {
    await house.close();
  }
}
