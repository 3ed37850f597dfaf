import { Hono } from 'hono';
import { stream } from 'hono/streaming';
import { z } from 'zod';
import {
  findingsQuerySchema,
  markRequestSchema,
  type Finding,
  type FindingsPage,
  type FindingsQuery,
  type Mark,
} from '../../contract/findings.ts';
import type { Facts } from '../../contract/facts.ts';
import { evidenceOf } from '../../core/findings/evidence.ts';
import { compare } from '../../core/findings/pair-paths.ts';
import type { PlainFinding } from '../../core/findings/find.ts';
import { factsKey, findFacts, type KnownFacts } from '../assets/facts.ts';
import { findBuild, findChannel, type PlacedBuild } from '../builds/builds.ts';
import { pathsWithNotes } from '../catalogue/notes.ts';
import type { Queryable } from '../database/rows.ts';
import { readBody, readQuery } from '../http/read-request.ts';
import type { ServerContext } from '../http/server-context.ts';
import type { Findings } from './differences.ts';
import { findingLines } from './finding-lines.ts';
import { listMarks, setMark } from './marks.ts';

const diffQuery = z.object({ title: z.string(), channel: z.string(), from: z.string(), to: z.string() });

export function findingRoutes({ pool, spans }: ServerContext): Hono {
  const routes = new Hono();

  routes.get('/diff', async (context) => {
    const { title, channel, from, to } = readQuery(context, diffQuery);
    const channelId = await findChannel(pool, title, channel);
    const [older, newer] = await Promise.all([
      findBuild(pool, channelId, from),
      findBuild(pool, channelId, to),
    ]);
    const findings = await spans.of(older, newer);
    context.header('Content-Type', 'application/x-ndjson');
    return stream(context, async (out) => {
      let part: string[] = [];
      for (const line of findingLines(findings)) {
        if (part.push(line) < 2000) continue;
        await out.write(`${part.join('\n')}\n`);
        part = [];
      }
      await out.write(`${part.join('\n')}\n`);
    });
  });

  routes.get('/findings', async (context) => {
    const query = readQuery(context, findingsQuerySchema);
    const from = await findBuild(pool, query.channel, query.from);
    const to = await findBuild(pool, query.channel, query.to);
    return context.json(await findPage(pool, await spans.of(from, to), from, to, query));
  });

  routes.put('/marks', async (context) => {
    const { channel, from, to, path, mark } = await readBody(context, markRequestSchema);
    await setMark(pool, await findBuild(pool, channel, from), await findBuild(pool, channel, to), path, mark);
    return context.json({ mark });
  });

  return routes;
}

async function findPage(
  database: Queryable,
  { findings, summary }: Findings,
  from: PlacedBuild,
  to: PlacedBuild,
  query: FindingsQuery,
): Promise<FindingsPage> {
  const marks = await listMarks(database, from, to);
  const kinds: FindingsPage['kinds'] = {};
  const markCounts = { open: 0, kept: 0, aside: 0 };
  for (const { kind, path } of findings) {
    kinds[kind] = (kinds[kind] ?? 0) + 1;
    markCounts[marks.get(path) ?? 'open']++;
  }
  const chosen = sorted(findings.filter(filterOf(query, marks)), query.sort);
  const shown = chosen.slice(query.offset, query.offset + query.limit);
  return {
    summary,
    kinds,
    marks: markCounts,
    total: chosen.length,
    offset: query.offset,
    findings: await withEvidence(database, shown, query.channel, marks),
  };
}

function filterOf(
  query: FindingsQuery,
  marks: ReadonlyMap<string, Mark>,
): (finding: PlainFinding) => boolean {
  const statuses = new Set(query.status.split(',').filter(Boolean));
  const kinds = new Set(query.kind.split(',').filter(Boolean));
  const words = query.text.toLowerCase().split(/\s+/).filter(Boolean);
  return ({ status, kind, path, oldPath }) => {
    if (statuses.size > 0 && !statuses.has(status)) return false;
    if (kinds.size > 0 && !kinds.has(kind)) return false;
    if (query.mark !== '' && (marks.get(path) ?? 'open') !== query.mark) return false;
    const names = `${path}\n${oldPath ?? ''}`.toLowerCase();
    return words.every((word) => names.includes(word));
  };
}

function sorted(findings: PlainFinding[], sort: FindingsQuery['sort']): PlainFinding[] {
  switch (sort) {
    case 'path':
      return findings;
    case 'size':
      return findings.sort(
        (a, b) => (b.size ?? b.oldSize ?? 0) - (a.size ?? a.oldSize ?? 0) || compare(a.path, b.path),
      );
    case 'status':
    case 'kind':
      return findings.sort((a, b) => compare(a[sort], b[sort]) || compare(a.path, b.path));
  }
}

function withoutEnvelope(known: KnownFacts | null): Facts | null {
  const facts = known?.facts ?? null;
  return facts?.kind === 'sound' ? { ...facts, envelope: '' } : facts;
}

async function withEvidence(
  database: Queryable,
  findings: readonly PlainFinding[],
  channelId: number,
  marks: ReadonlyMap<string, Mark>,
): Promise<Finding[]> {
  const facts = await findFacts(
    database,
    findings.flatMap(({ hash, oldHash, format }) => [
      { hash, format },
      { hash: oldHash, format },
    ]),
  );
  const notes = await pathsWithNotes(
    database,
    channelId,
    findings.map(({ path }) => path),
  );
  return findings.map((finding) => {
    const now = facts.get(factsKey(finding.hash, finding.format)) ?? null;
    const old = facts.get(factsKey(finding.oldHash, finding.format)) ?? null;
    return {
      ...finding,
      evidence: evidenceOf(finding, now?.facts ?? null, old?.facts ?? null),
      facts: withoutEnvelope(now),
      oldFacts: withoutEnvelope(old),
      hasPreview: (now?.previewHash ?? null) !== null,
      hasOldPreview: (old?.previewHash ?? null) !== null,
      mark: marks.get(finding.path) ?? null,
      hasNote: notes.has(finding.path),
    };
  });
}
