import type { Finding, FindingsPage, FindingsQuery } from '../../../contract/findings.ts';
import type { Facts } from '../../../contract/facts.ts';
import { noPassState, type PassState } from '../../../contract/pass.ts';
import { compare } from '../../../core/findings/pair-paths.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { canCompare } from '../../../core/kinds/compare.ts';
import type { KnownFacts } from '../../library/assets/facts.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { carriedInto, type Carried } from '../pass/carried.ts';
import { countRemarks } from '../pass/remarks.ts';
import { listStates, newestRevision, stateIn } from '../pass/states.ts';
import type { RecentSpans } from './recent-spans.ts';
import { factsOfFindings, sentenceOfFinding, type SpanView } from './span-view.ts';
import { indexOf } from './view-index.ts';

/** How much a finding is news, by its path; higher is more. */
export type NewsRanks = ReadonlyMap<string, number>;

export interface PageSource {
  pool: Pool;
  spans: RecentSpans;
  /** Asked for when a list is to be ordered by it. */
  ranks: (from: PlacedBuild, to: PlacedBuild) => Promise<NewsRanks>;
  /** Those of a channel's paths on which somebody wrote a note. */
  pathsWithNotes: (pool: Pool, channelId: number, paths: readonly string[]) => Promise<ReadonlySet<string>>;
}

/** Findings that fit a query with what each of them carries, all of them in their order. */
export interface Chosen {
  view: SpanView;
  asOf: number;
  newestFacts: number;
  states: ReadonlyMap<string, PassState>;
  carried: Carried | null;
  /** Of the carried ones: what was said of them in the span that they are of. */
  carriedStates: ReadonlyMap<string, PassState>;
  findings: PlainFinding[];
}

/** The findings that a query asks for. */
export async function chooseFindings(
  source: PageSource,
  from: PlacedBuild,
  to: PlacedBuild,
  query: FindingsQuery,
): Promise<Chosen> {
  const { pool, spans } = source;
  const seen = await spans.viewAsOf(from, to, query.asOf);
  const { view } = seen;
  const index = indexOf(view);
  const revision = await newestRevision(pool, from, to);
  const states = await listStates(pool, from, to);
  const carried =
    from.sequence < to.sequence
      ? await carriedInto(pool, spans, from, (path) => index.placeOf.has(path))
      : null;
  const carriedStates = carried
    ? await listStates(pool, carried.from, carried.to)
    : new Map<string, PassState>();
  const ranks = query.sort === 'news' ? await source.ranks(from, to) : null;
  if (query.mark === 'carried') {
    const chosen = (carried?.findings ?? []).filter(filterOf(query, carriedStates));
    return { ...seen, states, carried, carriedStates, findings: sorted(chosen, query.sort, view, ranks) };
  }
  const numberOfRule = view.folds.findIndex(({ key }) => key === query.noise);
  const isShown = (at: number): boolean =>
    query.noise === 'all' || view.ruleOf[at] === (query.noise === '' ? -1 : numberOfRule);
  const make = (): PlainFinding[] => {
    const fits = filterOf(query, states);
    const chosen = view.findings.filter((finding, at) => isShown(at) && fits(finding));
    return sorted(chosen, query.sort, view, ranks);
  };
  // How much a thing is news changes with more than the view.
  const findings = ranks
    ? make()
    : index.listed(`${JSON.stringify({ ...query, offset: 0, limit: 0 })} ${revision}`, make);
  return { ...seen, states, carried, carriedStates, findings };
}

export async function findPage(
  source: PageSource,
  from: PlacedBuild,
  to: PlacedBuild,
  query: FindingsQuery,
): Promise<FindingsPage> {
  const { pool, spans } = source;
  const [revision, chosen, remarks] = [
    await newestRevision(pool, from, to),
    await chooseFindings(source, from, to, query),
    await countRemarks(pool, from, to),
  ];
  const { view, states, carried, findings } = chosen;
  const index = indexOf(view);
  const said = [...states.values()];
  const shown = findings.slice(query.offset, query.offset + query.limit);
  return {
    summary: view.summary,
    kinds: index.kinds(query.noise === 'all'),
    marks: index.marks(query.noise === 'all', states),
    carried: carried?.findings.length ?? 0,
    revision,
    people: [
      ...new Set(said.flatMap(({ assignee, changedBy }) => [assignee, changedBy]).filter(Boolean)),
    ].sort(),
    labels: [...new Set(said.flatMap(({ labels }) => labels))].sort(),
    folds: [...view.folds],
    folderMoves: view.moves.slice(0, 50),
    evidence: await spans.evidence(from, to),
    asOf: chosen.asOf,
    newestFacts: chosen.newestFacts,
    total: findings.length,
    offset: query.offset,
    findings: await toFindings(source, shown, chosen, remarks, query),
  };
}

function filterOf(
  query: FindingsQuery,
  states: ReadonlyMap<string, PassState>,
): (finding: PlainFinding) => boolean {
  const statuses = new Set(query.status.split(',').filter(Boolean));
  const kinds = new Set(query.kind.split(',').filter(Boolean));
  const words = query.text.toLowerCase().split(/\s+/).filter(Boolean);
  const mark = query.mark === 'carried' ? 'open' : query.mark;
  const folder = query.folder === '' ? '' : query.folder.replace(/\/$/, '');
  return ({ status, kind, path, oldPath }) => {
    if (statuses.size > 0 && !statuses.has(status)) return false;
    if (kinds.size > 0 && !kinds.has(kind)) return false;
    if (folder !== '' && !path.startsWith(`${folder}/`) && !path.startsWith(`${folder}!/`)) return false;
    if (mark !== '' || query.assignee !== '' || query.label !== '') {
      const state = stateIn(states, path);
      if (mark !== '' && state.mark !== mark) return false;
      if (query.assignee !== '' && state.assignee !== query.assignee) return false;
      if (query.label !== '' && !state.labels.includes(query.label)) return false;
    }
    const names = `${path}\n${oldPath ?? ''}`.toLowerCase();
    return words.every((word) => names.includes(word));
  };
}

function sorted(
  findings: PlainFinding[],
  sort: FindingsQuery['sort'],
  { judgedOf }: SpanView,
  ranks: NewsRanks | null,
): PlainFinding[] {
  const by = (valueOf: (finding: PlainFinding) => number): PlainFinding[] => {
    const values = new Map(findings.map((finding) => [finding, valueOf(finding)]));
    return findings.sort((a, b) => (values.get(b) ?? 0) - (values.get(a) ?? 0) || compare(a.path, b.path));
  };
  switch (sort) {
    case 'path':
      return findings;
    case 'news':
      return by(({ path }) => ranks?.get(path) ?? 0);
    case 'size':
      return by(({ size, oldSize }) => size ?? oldSize ?? 0);
    case 'extent':
      return by((finding) => (finding.status === 'changed' ? (judgedOf(finding)?.extent ?? -1) : -2));
    case 'status':
    case 'kind':
      return findings.sort((a, b) => compare(a[sort], b[sort]) || compare(a.path, b.path));
  }
}

function withoutEnvelope(known: KnownFacts | null): Facts | null {
  const facts = known?.facts ?? null;
  return facts?.kind === 'sound' ? { ...facts, envelope: '' } : facts;
}

async function toFindings(
  { pool, pathsWithNotes }: PageSource,
  findings: readonly PlainFinding[],
  { view, states, carried, carriedStates }: Chosen,
  remarks: ReadonlyMap<string, number>,
  query: FindingsQuery,
): Promise<Finding[]> {
  const factsOf = await factsOfFindings(pool, findings);
  const notes = await pathsWithNotes(
    pool,
    query.channel,
    findings.map(({ path }) => path),
  );
  const { placeOf } = indexOf(view);
  const carriedFrom =
    query.mark === 'carried' && carried ? { from: carried.from.label, to: carried.to.label } : null;
  return findings.map((finding) => {
    const facts = factsOf(finding);
    const judged = view.judgedOf(finding);
    const place = placeOf.get(finding.path) ?? -1;
    // What is carried over is of another span, and folded there if at all.
    const rule = view.findings[place] === finding ? (view.ruleOf[place] ?? -1) : -1;
    const { hash, oldHash, format, oldFormat, path } = finding;
    return {
      ...finding,
      oldFormat: oldFormat ?? format,
      evidence: sentenceOfFinding(finding, judged, facts),
      facts: withoutEnvelope(facts.now),
      oldFacts: withoutEnvelope(facts.old),
      hasPreview: (facts.now?.previewHash ?? null) !== null,
      hasOldPreview: (facts.old?.previewHash ?? null) !== null,
      pass: (carriedFrom ? carriedStates : states).get(path) ?? noPassState,
      remarks: remarks.get(path) ?? 0,
      hasNote: notes.has(path),
      likeness: finding.likeness ?? null,
      nature: judged?.nature ?? null,
      extent: judged?.nature ? judged.extent : null,
      differencePicture: judged?.picture ?? null,
      isComparable: hash !== null && oldHash !== null && canCompare(oldFormat ?? format, format),
      foldedBy: rule >= 0 ? (view.folds[rule]?.name ?? null) : null,
      carriedFrom,
    };
  });
}
