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

export type FromReader =
  | { type: 'resolve'; call: number; id: number; reference: string }
  | { type: 'done'; id: number; facts: Facts | null; preview: Uint8Array | null; reason: string | null };
