import type { PlainFinding } from '../../../core/findings/find.ts';
import { placedBefore, type PlacedBuild } from '../../acquire/builds/builds.ts';
import type { Queryable } from '../../platform/database/rows.ts';
import type { RecentSpans } from '../findings/recent-spans.ts';
import { listStates, stateIn } from './states.ts';

/** What was left open in the pass before: its findings, and the span that they are of. */
export interface Carried {
  from: PlacedBuild;
  to: PlacedBuild;
  findings: PlainFinding[];
}

/**
 * What was left open in the span that ended where this one begins, once somebody had begun to go through it; without what
 * this span tells of anyway.
 */
export async function carriedInto(
  database: Queryable,
  spans: RecentSpans,
  from: PlacedBuild,
  isHere: (path: string) => boolean,
): Promise<Carried | null> {
  const before = await placedBefore(database, from);
  if (!before) return null;
  const states = await listStates(database, before, from);
  if (states.size === 0) return null;
  const { findings, ruleOf } = await spans.view(before, from);
  const left = findings.filter(
    (finding, at) =>
      ruleOf[at] === -1 && stateIn(states, finding.path).mark === 'open' && !isHere(finding.path),
  );
  return { from: before, to: from, findings: left };
}
