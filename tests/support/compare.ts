import { comparisonSchema, type Comparison } from '../../contract/comparisons.ts';
import { identify } from '../../core/kinds/identify.ts';
import { compareContents } from '../../core/kinds/compare.ts';
import type { Outcome } from '../../core/kinds/comparing.ts';
import { nodePlatform } from '../../server/decode/platform.ts';

export interface Side {
  bytes: Uint8Array;
  path: string;
  resolve?: (reference: string) => Promise<Uint8Array | null>;
}

/** Compares bytes as two builds would have them compared; what comes out fits the contract. */
export async function compareBytes(old: Side, now: Side): Promise<Comparison> {
  return (await outcomeOf(old, now)).comparison;
}

export async function outcomeOf(old: Side, now: Side): Promise<Outcome> {
  const outcome = await compareContents(requestOf(old), requestOf(now));
  comparisonSchema.parse(outcome.comparison);
  return outcome;
}

/** One of two contents with its format, as a comparison asks for it. */
export function requestOf({ bytes, path, resolve }: Side) {
  return {
    format: identify(bytes.subarray(0, 1024), path).format,
    request: {
      bytes,
      size: bytes.length,
      part: (start: number, end: number) => bytes.subarray(start, end),
      path,
      platform: nodePlatform,
      resolve: resolve ?? (() => Promise.resolve(null)),
    },
  };
}
