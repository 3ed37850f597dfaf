import type { News, NewString } from '../../../contract/news.ts';
import { patternOf, splitName, stemOf } from '../../../core/names/split.ts';
import type { FreshPart } from '../../../contract/names.ts';
import { rankNews, worthOfNew, type FileNews, type Ranked } from '../../../core/findings/rank-news.ts';
import type { PlainFinding } from '../../../core/findings/find.ts';
import { listTitles, type PlacedBuild } from '../../acquire/builds/builds.ts';
import { findTexts, pairKey } from '../../decode/comparisons.ts';
import { pairOf } from '../evidence/evidence-job.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { select } from '../../platform/database/rows.ts';
import { factsOfFindings, sentenceOfFinding, type SpanView } from '../findings/span-view.ts';
import type { Questions } from '../../library/questions.ts';
import { pathDigest } from '../../store/hash.ts';
import { containersOf } from './containers.ts';
import { growthOf } from './growth.ts';

const shownNews = 200;
const shownStrings = 500;
/** Of more findings only these are looked at closely. */
const mostLooked = 20_000;

export interface NewsContext {
  pool: Pool;
  library: LibraryClient;
}

/** Whoever answers questions about builds: the library, or a thread's way to it. */
export interface LibraryClient {
  get<Name extends keyof Questions>(
    name: Name,
    channelId: number,
    build: string,
    parameters: Questions[Name]['parameters'],
  ): Promise<Questions[Name]['answer']>;
}

/** The news of a span, and how much each of its findings is news. */
export async function makeNews(
  { pool, library }: NewsContext,
  view: SpanView,
  evidence: News['evidence'],
): Promise<{ news: News; ranks: Map<string, number> }> {
  const { from, to, findings, ruleOf } = view;
  const shown = findings.filter((_, at) => ruleOf[at] === -1);
  // Of too many those come first that are worth most by their kind.
  const looked =
    shown.length <= mostLooked
      ? shown
      : [...shown].sort((a, b) => worthOfNew[b.kind] - worthOfNew[a.kind]).slice(0, mostLooked);
  const inBuild = looked.filter(({ status }) => status !== 'removed').map(({ path }) => path);
  const files = new Map<string, FileNews | null>();
  const answers = await library.get('fileNews', to.channelId, to.label, {
    paths: inBuild,
    fromSequence: from.sequence,
  });
  inBuild.forEach((path, at) => files.set(path, answers[at] ?? null));
  const freshParts = await library.get('freshParts', to.channelId, to.label, {});
  const cameBack = await findCameBack(
    pool,
    from,
    looked.filter(({ status }) => status === 'added').map(({ path }) => path),
  );
  const strings = await findStrings(pool, looked);
  const ranked = rankNews(looked, {
    fileOf: (path) => files.get(path) ?? null,
    judgedOf: view.judgedOf,
    freshPartsOf: freshFinder(view, freshParts),
    cameBack: (path) => cameBack.get(path) ?? null,
    newStringsOf: ({ path }) => strings.counts.get(path) ?? 0,
  });
  const { title, channel, builds } = await placeOf(pool, to);
  const kinds: News['kinds'] = {};
  for (const { kind, status } of shown) {
    const counts = (kinds[kind] ??= {});
    counts[status] = (counts[status] ?? 0) + 1;
  }
  return {
    // Their place, and not their points alone: kinds take turns.
    ranks: new Map(ranked.map(({ finding }, place) => [finding.path, ranked.length - place])),
    news: {
      title,
      channel,
      from: from.label,
      to: to.label,
      releasedAt: to.releasedAt,
      evidence,
      builds,
      summary: view.summary,
      kinds,
      folds: [...view.folds],
      folderMoves: view.moves.slice(0, 50),
      news: await toNewsItems(pool, view, ranked.slice(0, shownNews)),
      newsTotal: ranked.length,
      families: newFamilies(ranked, files),
      freshParts: freshParts.slice(0, 100),
      strings: strings.list.slice(0, shownStrings),
      stringsTotal: strings.list.length,
      untranslated: strings.untranslated,
      containers: await containersOf(pool, view),
      growth: await growthOf(pool, from, to),
    },
  };
}

/** Parts of a file's name that no build before this one had. */
function freshFinder({ noiseFacts }: SpanView, freshParts: readonly FreshPart[]): (path: string) => string[] {
  const fresh = new Set(freshParts.map(({ part }) => part));
  const { rules } = noiseFacts.lexicon;
  return (path) =>
    fresh.size === 0
      ? []
      : [
          ...new Set(
            splitName(stemOf(path), rules)
              .map(patternOf)
              .filter((part) => fresh.has(part)),
          ),
        ];
}

/** Of new paths: the build that had something there last, before the older build of the span. */
async function findCameBack(
  pool: Pool,
  from: PlacedBuild,
  paths: readonly string[],
): Promise<Map<string, string>> {
  const byDigest = new Map(paths.map((path) => [pathDigest(path).toString('hex'), path]));
  const digests = [...byDigest.keys()];
  const back = new Map<string, string>();
  for (let at = 0; at < digests.length; at += 1000) {
    const rows = await select<{ digest: Buffer; label: string }>(
      pool,
      `SELECT s.path_digest AS digest, (SELECT b.label FROM builds b WHERE b.channel_id = s.channel_id AND b.sequence <= MAX(s.last_sequence)
            ORDER BY b.sequence DESC LIMIT 1) AS label
         FROM asset_spans s WHERE s.channel_id = ? AND s.path_digest IN (?) AND s.last_sequence < ? AND s.role = 0
        GROUP BY s.path_digest`,
      [
        from.channelId,
        digests.slice(at, at + 1000).map((digest) => Buffer.from(digest, 'hex')),
        from.sequence,
      ],
    );
    for (const { digest, label } of rows) back.set(byDigest.get(digest.toString('hex')) ?? '', label);
  }
  return back;
}

/** Strings that are new or changed, from what comparing texts found out. */
async function findStrings(
  pool: Pool,
  findings: readonly PlainFinding[],
): Promise<{ list: NewString[]; counts: Map<string, number>; untranslated: number }> {
  const list: NewString[] = [];
  const counts = new Map<string, number>();
  let untranslated = 0;
  const pairs = findings.flatMap((finding) => (finding.kind === 'text' ? (pairOf(finding) ?? []) : []));
  const texts = await findTexts(pool, pairs);
  for (const pair of pairs) {
    const detail = texts.get(pairKey(pair));
    if (!detail?.values) continue;
    const { language } = detail;
    if (language !== null) untranslated += detail.untranslated.length;
    const fresh = detail.values.filter(({ status }) => status !== 'gone');
    // Only tables of strings have a language; values of definitions are no texts.
    if (language === null) continue;
    counts.set(pair.path, fresh.filter(({ status }) => status === 'added').length);
    for (const { key, new: value, old, status } of fresh)
      list.push({ path: pair.path, language, key, value, old: status === 'added' ? null : old });
  }
  return { list, counts, untranslated };
}

function newFamilies(
  ranked: readonly Ranked[],
  files: ReadonlyMap<string, FileNews | null>,
): News['families'] {
  const families: News['families'] = [];
  for (const { finding } of ranked) {
    const family = files.get(finding.path)?.family;
    if (!family?.isNew || family.files < 2 || !family.isFace || finding.status !== 'added') continue;
    const { path } = finding;
    families.push({
      name: family.name,
      folder: path.slice(0, Math.max(0, path.lastIndexOf('/'))),
      files: family.files,
      face: path,
    });
  }
  return families.slice(0, 100);
}

async function toNewsItems(pool: Pool, view: SpanView, ranked: readonly Ranked[]): Promise<News['news']> {
  const factsOf = await factsOfFindings(
    pool,
    ranked.map(({ finding }) => finding),
  );
  return ranked.map(({ finding, score, reasons }) => {
    const facts = factsOf(finding);
    const { path, oldPath, kind, status, format, oldFormat } = finding;
    const side = status === 'removed' ? facts.old : facts.now;
    return {
      path,
      oldPath,
      kind,
      status,
      score,
      reasons,
      evidence: sentenceOfFinding(finding, view.judgedOf(finding), facts),
      hash: finding.hash ?? finding.oldHash,
      format: status === 'removed' ? (oldFormat ?? format) : format,
      hasPreview: (side?.previewHash ?? null) !== null,
    };
  });
}

async function placeOf(
  pool: Pool,
  build: PlacedBuild,
): Promise<{ title: string; channel: string; builds: News['builds'] }> {
  for (const title of await listTitles(pool))
    for (const channel of title.channels)
      if (channel.id === build.channelId)
        return {
          title: title.name,
          channel: channel.name,
          builds: channel.builds
            .filter(({ sequence }) => sequence !== null)
            .map(({ label, bytes, files }) => ({ label, bytes, files })),
        };
  throw new Error('placeOf: the build is in no channel');
}
