import type { FileNews } from '../../core/findings/rank-news.ts';
import { finestOf, memberPartOf } from '../../core/names/family-members.ts';
import type { Lexicon } from '../../core/names/lexicon.ts';
import { spanOf } from '../../core/search/search.ts';
import type { BuildLibrary } from './build-library.ts';
import type { Questions } from './questions.ts';

/** Of larger families so many members are looked at: what is new is new in all of them. */
const mostMembers = 500;

/** How often files are named, and whether their families are new since an older build. */
export async function answerFileNews(
  library: BuildLibrary,
  lexicon: Lexicon,
  { paths, fromSequence }: Questions['fileNews']['parameters'],
): Promise<Questions['fileNews']['answer']> {
  const graph = await library.graph(lexicon);
  const { families, numbers, placeOf } = await library.families(lexicon);
  const { index, tables } = library.searchable;
  const known = new Map<number, { isNew: boolean; face: number }>();
  const familyNews = (family: number): { isNew: boolean; face: number } => {
    const before = known.get(family);
    if (before) return before;
    const members = [...families.membersOf(family).subarray(0, mostMembers)].map(
      (place) => numbers[place] ?? 0,
    );
    const isNew = members.every((number) => spanOf(tables.states, number, fromSequence) < 0);
    const shown = members.map((number) => ({
      number,
      kind: library.kindOf(library.spanOf(number)),
      part: memberPartOf(index.path(number), library.kindOf(library.spanOf(number)), lexicon),
      triangles: tables.states.figures.triangles?.[library.spanOf(number)] ?? NaN,
    }));
    const news = { isNew, face: finestOf(shown)?.number ?? members[0] ?? -1 };
    known.set(family, news);
    return news;
  };
  return paths.map((path): FileNews | null => {
    const number = library.numberOf(path);
    if (number < 0) return null;
    const family = families.familyOf(placeOf[number] ?? 0);
    const { isNew, face } = familyNews(family);
    return {
      users: graph.neededBy(number).length,
      family: {
        id: family,
        name: families.nameOf(family).name,
        isNew,
        files: families.membersOf(family).length,
        isFace: face === number,
      },
    };
  });
}
