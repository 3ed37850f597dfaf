import type { Comparison } from '../../contract/comparisons.ts';
import type { Facts } from '../../contract/facts.ts';
import type { PlacementRecipe } from '../../contract/recipes.ts';
import type { Mention } from '../../core/kinds/mentions.ts';
import type { NamedBones } from '../../core/kinds/model/pose/bone-names.ts';
import type { Shown, ShownPlace } from '../../core/kinds/show.ts';
import type { Writing } from '../../core/kinds/write.ts';
import type { Proof } from '../../core/kinds/writing.ts';
import type { LocalContent } from '../store/local-content.ts';

/** What a team says of how a file is built. */
export interface Described {
  /** How a placement table is written, where it is one by a recipe. */
  recipe?: PlacementRecipe | undefined;
  /** The sheet that describes its format, and the version of that to be tried first; null for the newest. Keys are those that it may unpack with. */
  sheet?: { text: string; version: string | null; keys?: readonly Uint8Array[] } | undefined;
}
export type DescribeFile = (path: string, format: string) => Described;

/** A content, and as what it is to be read. */
export interface ContentToRead extends Described {
  path: string;
  format: string;
  content: LocalContent;
}

/** What a reader is asked to do. */
export type Operation =
  | { type: 'facts'; content: ContentToRead }
  /** Makes it into a form that browsers show; `image` tells which of a picture's images. */
  | { type: 'show'; content: ContentToRead; image: ShownPlace }
  | { type: 'compare'; old: ContentToRead; content: ContentToRead }
  /** Writes it in another format, into files of a folder; `prefix` is what their names begin with. */
  | { type: 'write'; content: ContentToRead; writing: Writing; folder: string; prefix: string };

export interface FactsOutcome {
  facts: Facts | null;
  preview: Uint8Array | null;
  /** BLAKE3 of the decoded content. */
  fingerprint: Uint8Array | null;
  signature: Uint8Array | null;
  mentions: readonly Mention[];
  bones: readonly NamedBones[];
  /** Why there are no facts, or no more than these. */
  reason: string | null;
}

export interface ShowOutcome {
  shown: Shown | null;
  reason: string | null;
}

export interface CompareOutcome {
  compared: { comparison: Comparison; picture: Uint8Array | null } | null;
  reason: string | null;
}

/** A file that a reader wrote, not yet in its place. */
export interface StagedFile {
  /** What it is called behind the stem. */
  ending: string;
  file: string;
  bytes: number;
  sha256: string;
  blake3: string;
}

export interface WriteOutcome {
  written: { files: StagedFile[]; losses: string[]; notes: string[]; proof: Proof } | null;
  reason: string | null;
}

/** What comes of each operation. */
export interface Outcomes {
  facts: FactsOutcome;
  show: ShowOutcome;
  compare: CompareOutcome;
  write: WriteOutcome;
}

/** What an operation comes to that failed, by what it was. */
export const failedOutcome: { [Type in keyof Outcomes]: (reason: string) => Outcomes[Type] } = {
  facts: (reason) => ({
    facts: null,
    preview: null,
    fingerprint: null,
    signature: null,
    mentions: [],
    bones: [],
    reason,
  }),
  show: (reason) => ({ shown: null, reason }),
  compare: (reason) => ({ compared: null, reason }),
  write: (reason) => ({ written: null, reason }),
};

/** Which of two contents names a file, where two are compared. */
export type Side = 'old' | 'new';

export type ToReader =
  | { type: 'run'; id: number; operation: Operation }
  /** Answers `resolve`: where the file lies that the content names. */
  | { type: 'resolved'; call: number; content: LocalContent | null };

export type FromReader =
  | { type: 'resolve'; call: number; id: number; reference: string; side: Side }
  | { type: 'done'; id: number; outcome: Outcomes[keyof Outcomes] };
