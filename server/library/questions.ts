import type { PlacementRecipe, Trial } from '../../contract/recipes.ts';
import type { SheetFiles, SheetFit } from '../../contract/kept-sheets.ts';
import type { Folder, MapScene } from '../../contract/assets.ts';
import type { Family, FamilyList } from '../../contract/families.ts';
import type { FreshPart, Proposal, ReadName } from '../../contract/names.ts';
import type { missingLinksSchema, References, unnamedSchema } from '../../contract/references.ts';
import type { SaidTexture, TextureSets } from '../../contract/texture-sets.ts';
import type { FileNews } from '../../core/findings/rank-news.ts';
import type { Query } from '../../core/search/query.ts';
import type { Described } from '../decode/operations.ts';
import type * as z from 'zod';
import type { SheetSurroundings } from './formats/descriptions.ts';
import type { Gathered } from './gather-answers.ts';
import type { HaulSettings } from '../../contract/haul-settings.ts';
import type { FoundAssets, Order, SearchRequest } from './search/find-assets.ts';

/** A map with what its models are, so that their facts are found. */
export type SceneWithTargets = MapScene & {
  targets: { path: string; hash: string; format: string; size: number | null }[];
};

/** What a library thread is asked about a build, and what it answers. */
export interface Questions {
  folder: {
    parameters: { path: string; offset: number; limit: number; order: Order };
    answer: Folder | null;
  };
  /** `textFile` where the query looks into texts. */
  search: { parameters: { request: SearchRequest; textFile: string | null }; answer: FoundAssets };
  /** Paths of all that a query finds, or of all that lies in a folder and below it. */
  paths: {
    parameters: { query: Query | null; folder: string; textFile: string | null; most: number };
    answer: { paths: string[]; isCut: boolean };
  };
  proposals: { parameters: { refused: string[] }; answer: Proposal[] };
  freshParts: { parameters: Record<string, never>; answer: FreshPart[] };
  readName: { parameters: { path: string }; answer: ReadName };
  references: { parameters: { path: string; most: number }; answer: References | null };
  missing: {
    parameters: { offset: number; limit: number; text: string };
    answer: z.infer<typeof missingLinksSchema>;
  };
  unnamed: {
    parameters: { kind: string; offset: number; limit: number };
    answer: z.infer<typeof unnamedSchema>;
  };
  resolve: { parameters: { from: string; texts: readonly string[] }; answer: (string | null)[] };
  /** `described`: what a team says of how the map is built. */
  scene: { parameters: { path: string; described: Described }; answer: SceneWithTargets };
  tryRecipe: { parameters: { recipe: PlacementRecipe; path: string }; answer: Trial };
  sheetFiles: { parameters: { patterns: readonly string[] }; answer: SheetFiles };
  fitSheet: { parameters: { text: string; from: number } & SheetSurroundings; answer: SheetFit };
  family: { parameters: { path: string; most: number }; answer: Family | null };
  /** What a list of files is beside what differs in them; in their order, null for what is not in the build. */
  fileNews: { parameters: { paths: string[]; fromSequence: number }; answer: (FileNews | null)[] };
  /** `said`: what people say of its textures. */
  textureSets: {
    parameters: { path: string; materials: readonly string[]; said: readonly SaidTexture[] };
    answer: TextureSets | null;
  };
  /** What comes out when some assets are taken out. */
  gather: {
    parameters: { paths: readonly string[]; settings: HaulSettings; titleId: number };
    answer: Gathered;
  };
  families: { parameters: { text: string; offset: number; limit: number }; answer: FamilyList };
}

export type Question = {
  [Name in keyof Questions]: { name: Name } & { parameters: Questions[Name]['parameters'] };
}[keyof Questions];
