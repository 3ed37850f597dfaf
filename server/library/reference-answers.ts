import type { MissingLink, ReachedAsset, References } from '../../contract/references.ts';
import type { Mention } from '../../core/kinds/mentions.ts';
import type { Kind } from '../../contract/kinds.ts';
import { memberPartOf } from '../../core/names/family-members.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { candidatesFor } from '../../core/references/candidates.ts';
import type { Reached, ReferenceGraph } from '../../core/references/graph.ts';
import { resolve } from '../../core/references/resolve.ts';
import type { BuildLibrary } from './build-library.ts';
import type { Questions } from './questions.ts';

export async function answerReferences(
  library: BuildLibrary,
  lexicon: Lexicon,
  { path, most }: Questions['references']['parameters'],
): Promise<References | null> {
  const number = library.numberOf(path);
  if (number < 0) return null;
  const graph = await library.graph(lexicon);
  const needs = graph.reach(number, 'needs', most);
  const neededBy = graph.reach(number, 'neededBy', most);
  return {
    needs: needs.reached.map((reached) => reachedAsset(library, reached)),
    neededBy: neededBy.reached.map((reached) => reachedAsset(library, reached)),
    isCut: needs.isCut || neededBy.isCut,
    missing: graph.missing
      .filter(({ from }) => from === number)
      .map(({ mention: { text, where } }) => ({ text, where })),
  };
}

function reachedAsset(library: BuildLibrary, { number, depth, via, edge }: Reached): ReachedAsset {
  const { index } = library.searchable;
  return {
    path: index.path(number),
    kind: library.kindOf(library.spanOf(number)),
    depth,
    via: index.path(via),
    rule: edge.rule,
    text: edge.mention.text,
    where: edge.mention.where,
  };
}

/** What is named and not there, with what it may be: the dry run of linking. */
export async function answerMissing(
  library: BuildLibrary,
  lexicon: Lexicon,
  { offset, limit, text }: Questions['missing']['parameters'],
): Promise<Questions['missing']['answer']> {
  const { index } = library.searchable;
  const graph = await library.graph(lexicon);
  const wanted = text.toLowerCase();
  const isThere = (number: number): boolean => library.spanOf(number) >= 0;
  const found = graph.missing.filter(
    ({ from, mention }) =>
      wanted === '' ||
      mention.text.toLowerCase().includes(wanted) ||
      index.path(from).toLowerCase().includes(wanted),
  );
  return {
    total: found.length,
    links: found.slice(offset, offset + limit).map(({ from, mention }) => {
      const path = index.path(from);
      return {
        from: path,
        text: mention.text,
        where: mention.where,
        was: lastPlace(library, lexicon, mention, path),
        candidates: candidatesFor(index, isThere, mention.text, path, mention.where).map(
          ({ number: _, ...candidate }) => candidate,
        ),
      };
    }),
  };
}

/** What is missing here may have been there before, or come later. */
function lastPlace(
  library: BuildLibrary,
  lexicon: Lexicon,
  mention: Mention,
  from: string,
): MissingLink['was'] {
  const { index, tables } = library.searchable;
  const places = { ...library.places(lexicon), isThere: (number: number) => library.spanOf(number) < 0 };
  const found = resolve(places, mention, from);
  if (!found || found.rule === 'name') return null;
  const { spanAt, last } = tables.states;
  const end = last[(spanAt[found.target + 1] ?? 1) - 1] ?? 0;
  const build = library.builds.labels.get(Math.min(end, library.builds.newest)) ?? '';
  return { path: index.path(found.target), build };
}

/** Kinds that begin a game and need nobody to name them. */
const roots: ReadonlySet<string> = new Set(['text', 'map', 'other', 'font']);

/** What nothing refers to. */
export async function answerUnnamed(
  library: BuildLibrary,
  lexicon: Lexicon,
  { kind, offset, limit }: Questions['unnamed']['parameters'],
): Promise<Questions['unnamed']['answer']> {
  const { index, tables } = library.searchable;
  const graph: ReferenceGraph = await library.graph(lexicon);
  const { families, placeOf, numbers } = await library.families(lexicon);
  // Coarser levels of what is named are not left over.
  const isLevelOfNamed = (number: number, itsKind: Kind): boolean =>
    itsKind === 'model' &&
    (memberPartOf(index.path(number), itsKind, lexicon).level ?? 0) > 0 &&
    families
      .membersOf(families.familyOf(placeOf[number] ?? 0))
      .some((place) => graph.isNamed(numbers[place] ?? -1));
  const assets: Questions['unnamed']['answer']['assets'] = [];
  let total = 0;
  for (let number = 0; number < index.size; number++) {
    const span = library.spanOf(number);
    if (span < 0) continue;
    const itsKind = library.kindOf(span);
    if ((kind === '' ? roots.has(itsKind) : itsKind !== kind) || graph.isNamed(number)) continue;
    if (isLevelOfNamed(number, itsKind)) continue;
    if (total >= offset && assets.length < limit) {
      const size = tables.states.figures.size?.[span] ?? NaN;
      assets.push({ path: index.path(number), kind: itsKind, size: Number.isNaN(size) ? null : size });
    }
    total++;
  }
  return { total, assets };
}
