import { expect } from 'chai';
import { setTimeout as sleep } from 'node:timers/promises';
import { findBuild } from '../../server/acquire/builds/builds.ts';
import { select, selectOne } from '../../server/platform/database/rows.ts';
import type { TestHouse } from './worvel.ts';

/** All that is known of contents and builds, in an order of its own. */
async function knownState({ pool }: TestHouse): Promise<Record<string, unknown[]>> {
  const facts = await select(
    pool,
    'SELECT hash, format, facts, reason, preview_hash, resources, fingerprint, signature, mentions FROM content_facts ORDER BY hash, format',
  );
  const problems = await select(
    pool,
    `SELECT b.label, p.path, q.reason, q.locked FROM problems q JOIN builds b ON b.id = q.build_id
       JOIN paths p ON p.digest = q.path_digest ORDER BY b.label, p.path`,
  );
  const spans = await select(
    pool,
    'SELECT path_digest, first_sequence, last_sequence, role, format, hash FROM asset_spans ORDER BY path_digest, first_sequence',
  );
  return JSON.parse(JSON.stringify({ facts, problems, spans })) as Record<string, unknown[]>;
}

/** Two houses that were given the same builds know the same, row by row. */
export async function expectSameState(house: TestHouse, other: TestHouse): Promise<void> {
  const [ours, theirs] = [await knownState(house), await knownState(other)];
  for (const [table, rows] of Object.entries(theirs))
    // The first row that differs says more than a difference of all.
    rows.forEach((row, at) => expect(ours[table]?.[at], table).to.deep.equal(row));
  expect(ours).to.deep.equal(theirs);
}

export async function until(what: string, isThere: () => Promise<boolean>, seconds = 150): Promise<void> {
  for (const end = Date.now() + seconds * 1000; !(await isThere()); await sleep(50))
    if (Date.now() > end) throw new Error(`waited in vain for ${what}`);
}

/** Waits until all facts of builds of the first channel are read, and nobody reads any more. */
export async function untilRead({ pool }: TestHouse, labels: readonly string[]): Promise<void> {
  await until('all facts', async () => {
    const builds = await Promise.all(labels.map((label) => findBuild(pool, 1, label)));
    const open = await selectOne<{ jobs: number }>(
      pool,
      `SELECT COUNT(*) AS jobs FROM jobs WHERE kind = 'read' AND state IN ('waiting', 'running')`,
    );
    return builds.every(({ factsVersion }) => factsVersion !== null) && open?.jobs === 0;
  });
}
