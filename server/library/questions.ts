import type { PlacementRecipe, Trial } from '../../contract/recipes.ts';
import type { Folder, MapScene } from '../../contract/assets.ts';
import type { Family, FamilyList } from '../../contract/families.ts';
import type { FreshPart, Proposal, ReadName } from '../../contract/names.ts';
import type { missingLinksSchema, References, unnamedSchema } from '../../contract/references.ts';
import type { FileNews } from '../../core/findings/rank-news.ts';
import type { Query } from '../../core/search/query.ts';
import type * as z from 'zod';
import type { FoundAssets, Order, SearchRequest } from './search/find-assets.ts';

/** What a library thread is asked about a build, and what it answers. */
export interface Questions {
  folder: { ask: { path: string; offset: number; limit: number; order: Order }; answer: Folder | null };
  /** `textFile` where the query looks into texts. */
  search: { ask: { request: SearchRequest; textFile: string | null }; answer: FoundAssets };
  /** Paths of all that a query finds, or of all that lies in a folder and below it. */
  paths: {
    ask: { query: Query | null; folder: string; textFile: string | null; most: number };
    answer: { paths: string[]; isCut: boolean };
  };
  proposals: { ask: { refused: string[] }; answer: Proposal[] };
  freshParts: { ask: Record<string, never>; answer: FreshPart[] };
  readName: { ask: { path: string }; answer: ReadName };
  references: { ask: { path: string; most: number }; answer: References | null };
  missing: {
    ask: { offset: number; limit: number; text: string };
    answer: z.infer<typeof missingLinksSchema>;
  };
  unnamed: {
    ask: { kind: string; offset: number; limit: number };
    answer: z.infer<typeof unnamedSchema>;
  };
  resolve: { ask: { from: string; texts: readonly string[] }; answer: (string | null)[] };
  scene: { ask: { path: string }; answer: MapScene };
  tryRecipe: { ask: { recipe: PlacementRecipe; path: string }; answer: Trial };
  family: { ask: { path: string; most: number }; answer: Family | null };
  /** What a list of files is beside what differs in them; in their order, null for what is not in the build. */
  fileNews: { ask: { paths: string[]; fromSequence: number }; answer: (FileNews | null)[] };
  families: { ask: { text: string; offset: number; limit: number }; answer: FamilyList };
}

export type Question = {
  [Name in keyof Questions]: { name: Name } & { ask: Questions[Name]['ask'] };
}[keyof Questions];
