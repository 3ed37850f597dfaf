import type { EntryInput } from '../../../contract/catalogue.ts';
import { Lexicon } from '../../../core/names/lexicon.ts';
import { nameWithoutLevel } from '../../../core/names/family-members.ts';
import { findTitleOf } from '../../acquire/builds/builds.ts';
import type { Library } from '../../library/library.ts';
import { readLexiconState } from '../../library/names/lexicons.ts';
import { findSpoken } from '../../library/voices/spoken.ts';
import type { Pool } from '../../platform/database/pool.ts';
import type { ContentStore } from '../../store/content-store.ts';

const mostMembers = 500;
/** Longer strings are sentences about a thing, and not its name. */
const longestName = 80;
/** Members that stand for a thing by themselves; pictures that a model wears come with it. */
const shownKinds = new Set(['model', 'sound', 'map', 'clip']);

export interface ProposalServices {
  pool: Pool;
  library: Library;
  store: ContentStore;
}

/**
 * The draft of an entry, filled in from what is known: names that players read from the game's own strings, in all languages;
 * what the lexicon says of it; its family's finest members.
 * @throws NotFoundError where the build has no such asset
 */
export async function proposeEntry(
  { pool, library, store }: ProposalServices,
  channelId: number,
  build: string,
  path: string,
): Promise<EntryInput> {
  const { entries, rules, refused } = await readLexiconState(pool, await findTitleOf(pool, channelId));
  const file = path.slice(path.lastIndexOf('/') + 1);
  const stem = file.replace(/\.[^.]+$/, '');
  const internalName = nameWithoutLevel(path, new Lexicon(entries, rules, refused)) || stem;
  const family = await library.get('family', channelId, build, { path, most: mostMembers });
  const strings = await findSpoken({ library, store }, channelId, build, internalName);
  const names = new Map<string, string>();
  for (const { language, text } of strings) {
    const name = text.trim();
    if (language === null || name === '' || name.length > longestName || name.includes('\n')) continue;
    if (!names.has(language)) names.set(language, name);
  }
  const own = names.get('en') ?? [...names.values()][0];
  const members = family?.members.filter(
    ({ path: other, kind, isFinest }) =>
      other !== path && shownKinds.has(kind) && (kind !== 'model' || isFinest),
  );
  return {
    channelId,
    internalName,
    name: own ?? spacedName(internalName),
    paths: [path, ...(members ?? []).map((member) => member.path)],
    details: {
      names: [...names].filter(([, name]) => name !== own).map(([language, name]) => ({ language, name })),
      thing: family?.meaning ?? '',
    },
  };
}

function spacedName(name: string): string {
  return name.replace(/[_-]+/g, ' ').trim() || name;
}
