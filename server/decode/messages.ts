import type { Comparison } from '../../contract/comparisons.ts';
import type { Shown } from '../../core/kinds/show.ts';
import type { Mention } from '../../core/kinds/mentions.ts';
import type { PlacementRecipe } from '../../contract/recipes.ts';
import type { Facts } from '../../contract/facts.ts';
import type { ImagePlace } from '../../core/kinds/picture/picture.ts';
import type { ContentPlace } from '../store/layout.ts';

/** A content that another one is compared with. */
export interface Against {
  path: string;
  format: string;
  place: ContentPlace;
  recipe?: PlacementRecipe | undefined;
}

export interface ReadTask {
  id: number;
  path: string;
  format: string;
  place: ContentPlace;
  /** Instead of being read it is made into a form that browsers show; this tells which of a picture's images. */
  shown?: ImagePlace | undefined;
  /** How a placement table is written, where it is one by a recipe. */
  recipe?: PlacementRecipe | undefined;
  /** Instead of being read it is compared with this older one. */
  against?: Against | undefined;
}

export type ToReader =
  | { type: 'read'; task: ReadTask }
  /** Answers `resolve`: where the file lies that the asset names. */
  | { type: 'resolved'; call: number; place: ContentPlace | null };

export interface ReadOutcome {
  facts: Facts | null;
  preview: Uint8Array | null;
  /** BLAKE3 of the decoded content. */
  fingerprint: Uint8Array | null;
  signature: Uint8Array | null;
  mentions: readonly Mention[];
  /** What was asked for to be shown. */
  shown: Shown | null;
  compared: { comparison: Comparison; picture: Uint8Array | null } | null;
  /** Why there are no facts, or no more than these. */
  reason: string | null;
}

export const nothingRead = {
  facts: null,
  preview: null,
  fingerprint: null,
  signature: null,
  mentions: [],
  shown: null,
  compared: null,
} as const;

export type FromReader =
  | { type: 'resolve'; call: number; id: number; reference: string; isOld: boolean }
  | ({ type: 'done'; id: number } & ReadOutcome);
