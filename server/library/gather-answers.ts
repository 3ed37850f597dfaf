import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { WornPicture } from '../../contract/hauls.ts';
import type { Candidate } from '../../contract/references.ts';
import type { Kind } from '../../contract/kinds.ts';
import { comesAlong } from '../../core/hauls/follow.ts';
import { formatWithId } from '../../core/kinds/formats.ts';
import type { Mention } from '../../core/kinds/mentions.ts';
import { ladderOf, memberPartOf } from '../../core/names/family-members.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { namedPictureOf, spaceOfRole } from '../../core/names/texture-sets.ts';
import { candidatesFor } from '../../core/references/candidates.ts';
import { select } from '../platform/database/rows.ts';
import type { BuildLibrary } from './build-library.ts';
import { hashAt } from './search/text-tables.ts';
import { answerTextureSets } from './texture-answers.ts';
import { listSaidTextures } from './textures/corrections.ts';

export interface GatheredAsset {
  path: string;
  hash: string;
  format: string;
  kind: Kind;
  sizeBytes: number;
  /** Chosen, or why it comes along. */
  why: string;
  family: string;
  /** Of a picture whose name says what it is. */
  space: 'sRGB' | 'linear' | null;
  isNormal: boolean;
  /** Of a model: pictures by material and role. */
  worn: WornPicture[];
}

export interface Gathered {
  assets: GatheredAsset[];
  missing: { from: string; text: string; candidates: Candidate[] }[];
  refused: { path: string; reason: string }[];
}

/** More would be more than anybody takes out at once. */
const mostAssets = 100_000;
const mostMissing = 1000;
const shownCandidates = 3;

/** What comes out of a build when some of its assets are taken out: with what they need, and without what nobody wants twice. */
export async function answerGather(
  library: BuildLibrary,
  lexicon: Lexicon,
  { paths, settings, titleId }: { paths: readonly string[]; settings: HaulSettings; titleId: number },
): Promise<Gathered> {
  const refused: Gathered['refused'] = [];
  const { index, tables } = library.searchable;
  const why = new Map<number, string>();
  for (const path of paths) {
    const number = library.numberOf(path);
    if (number < 0) refused.push({ path, reason: 'it is not in this build' });
    else why.set(number, 'chosen');
  }
  const built = await library.families(lexicon);
  const familyOf = (number: number): number => built.families.familyOf(built.placeOf[number] ?? 0);
  if (settings.along.family)
    for (const number of [...why.keys()])
      for (const place of built.families.membersOf(familyOf(number))) {
        const member = built.numbers[place] ?? 0;
        if (!why.has(member)) why.set(member, `of the family of ${index.path(number)}`);
      }
  dropCoarser(library, lexicon, why, settings);
  const graph = await library.graph(lexicon);
  const kindOf = (number: number): Kind => library.kindOf(library.spanOf(number));
  for (const number of why.keys()) {
    // A map grows while it is gone through: what comes along is looked at, too.
    if (why.size > mostAssets) break;
    for (const edge of graph.needs(number))
      if (!why.has(edge.to) && comesAlong(kindOf(number), kindOf(edge.to), settings))
        why.set(edge.to, `needed by ${index.path(number)}`);
  }
  const assets: GatheredAsset[] = [];
  const materials = await materialsOf(
    library,
    [...why.keys()].filter((number) => kindOf(number) === 'model'),
  );
  for (const [number, reason] of [...why].sort((a, b) => a[0] - b[0])) {
    const span = library.spanOf(number);
    const path = index.path(number);
    const { name: format, kind } = formatWithId(tables.states.format[span] ?? 0);
    const size = tables.states.figures.size?.[span] ?? NaN;
    const hash = hashAt(tables.hashes, span);
    if (/^0*$/.test(hash)) {
      refused.push({ path, reason: 'its content could not be read when the build was brought in' });
      continue;
    }
    const picture = kind === 'picture' ? namedPictureOf(path, lexicon) : null;
    assets.push({
      ...{ path, hash, format, kind, why: reason },
      sizeBytes: Number.isNaN(size) ? 0 : size,
      family: built.families.nameOf(familyOf(number)).name,
      space: picture?.isRoleSaid ? spaceOfRole(picture.role) : null,
      isNormal: picture?.role === 'normal',
      worn:
        kind === 'model' && settings.models.textures === 'by role'
          ? await wornBy(library, lexicon, path, materials.get(number) ?? [], titleId)
          : [],
    });
  }
  const isThere = (number: number): boolean => library.spanOf(number) >= 0;
  const missing = graph.missing
    .filter(({ from }) => why.has(from))
    .slice(0, mostMissing)
    .map(({ from, mention: { text, where } }) => ({
      from: index.path(from),
      text,
      candidates: candidatesFor(index, isThere, text, index.path(from), where).slice(0, shownCandidates),
    }));
  return { assets, missing, refused };
}

/** Coarser levels stay behind where a finer one of the same thing is taken. */
function dropCoarser(
  library: BuildLibrary,
  lexicon: Lexicon,
  why: Map<number, string>,
  { along }: HaulSettings,
): void {
  if (along.levels === 'all') return;
  const { index } = library.searchable;
  const finest = new Map<string, { number: number; level: number }>();
  const coarser: number[] = [];
  for (const number of why.keys()) {
    if (library.kindOf(library.spanOf(number)) !== 'model') continue;
    const path = index.path(number);
    const ladder = ladderOf(path, lexicon);
    // Without a number it is the finest, as number 0 is (common practice).
    const level = memberPartOf(path, 'model', lexicon).level ?? 0;
    const known = finest.get(ladder);
    if (!known) finest.set(ladder, { number, level });
    else if (level < known.level) {
      coarser.push(known.number);
      finest.set(ladder, { number, level });
    } else coarser.push(number);
  }
  for (const number of coarser) why.delete(number);
}

/** Names of the materials of models, as their readers wrote them down. */
async function materialsOf(
  library: BuildLibrary,
  numbers: readonly number[],
): Promise<Map<number, string[]>> {
  const { tables } = library.searchable;
  const byHash = new Map<string, number[]>();
  for (const number of numbers) {
    const hash = hashAt(tables.hashes, library.spanOf(number));
    byHash.set(hash, [...(byHash.get(hash) ?? []), number]);
  }
  const hashes = [...byHash.keys()];
  const found = new Map<number, string[]>();
  for (let from = 0; from < hashes.length; from += 1000) {
    const rows = await select<{ hash: Buffer; mentions: string }>(
      library.pool,
      'SELECT hash, mentions FROM content_facts WHERE hash IN (?) AND mentions IS NOT NULL',
      [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
    );
    for (const { hash, mentions } of rows) {
      const names = (JSON.parse(mentions) as Mention[])
        .filter(({ where }) => where === 'material')
        .map(({ text }) => text);
      for (const number of byHash.get(hash.toString('hex')) ?? []) found.set(number, names);
    }
  }
  return found;
}

/** What people said, then what names say for sure. */
async function wornBy(
  library: BuildLibrary,
  lexicon: Lexicon,
  path: string,
  materials: readonly string[],
  titleId: number,
): Promise<WornPicture[]> {
  if (materials.length === 0) return [];
  const said = await listSaidTextures(library.pool, titleId, path);
  const sets = await answerTextureSets(library, lexicon, { path, materials, said });
  if (!sets) return [];
  const worn: WornPicture[] = [];
  const isSaid = (material: string, role: string): boolean =>
    said.some((one) => one.material === material && one.role === role);
  for (const { material, role, texture, isThere, channels } of sets.said)
    if (texture !== null && isThere) worn.push({ material, role, path: texture, channels });
  for (const { material, roles } of sets.materials)
    for (const { role, choices } of roles) {
      const [first] = choices;
      if (first?.isSure && !isSaid(material, role))
        worn.push({ material, role, path: first.path, channels: first.channels });
    }
  return worn;
}
