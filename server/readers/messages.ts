import type { Facts } from '../../contract/facts.ts';
import type { ContentPlace } from '../store/layout.ts';

export interface ReadTask {
  id: number;
  path: string;
  format: string;
  place: ContentPlace;
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
  /** Why there are no facts, or no more than these. */
  reason: string | null;
}

export const nothingRead = { facts: null, preview: null, fingerprint: null, signature: null } as const;

export type FromReader =
  | { type: 'resolve'; call: number; id: number; reference: string }
  | ({ type: 'done'; id: number } & ReadOutcome);
