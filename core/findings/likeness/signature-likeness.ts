import type { Kind } from '../../../contract/kinds.ts';

/** Ones in a byte. */
const ones = Uint8Array.from({ length: 256 }, (_, byte) => {
  let count = 0;
  for (let rest = byte; rest > 0; rest >>= 1) count += rest & 1;
  return count;
});

function differingBits(a: Uint8Array, b: Uint8Array, from: number, to: number): number {
  let count = 0;
  for (let at = from; at < to; at++) count += ones[(a[at] ?? 0) ^ (b[at] ?? 0)] ?? 0;
  return count;
}

function meanStep(a: Uint8Array, b: Uint8Array, from: number, to: number): number {
  let sum = 0;
  for (let at = from; at < to; at++) sum += Math.abs((a[at] ?? 0) - (b[at] ?? 0));
  return sum / Math.max(1, to - from);
}

/** How much of a likeness is left at a distance: 1 at none, a half at `half`. */
function fade(distance: number, half: number): number {
  return 2 ** -((distance / half) ** 1.5);
}

/**
 * How alike two contents of one kind are by their signatures (what the bytes of each mean stands with the readers), 0 to 1;
 * null where the kind has none.
 */
export function signatureLikeness(kind: Kind, a: Uint8Array, b: Uint8Array): number | null {
  if (a.length !== b.length || a.length === 0) return null;
  switch (kind) {
    case 'picture': {
      // An even picture has no structure to compare: its colours tell.
      const structure = fade(differingBits(a, b, 0, 8), 11);
      const colour = fade(meanStep(a, b, 8, 21), 26);
      return structure * 0.75 + colour * 0.25;
    }
    case 'model': {
      const shape = fade(meanStep(a, b, 0, 28), 9);
      const size = fade(meanStep(a, b, 28, 32), 10);
      return shape * 0.75 + size * 0.25;
    }
    case 'sound': {
      const bands = fade(meanStep(a, b, 0, 32), 9);
      const course = fade(meanStep(a, b, 32, 48), 11);
      const length = fade(Math.abs((a[48] ?? 0) - (b[48] ?? 0)), 5);
      return bands * 0.45 + course * 0.3 + length * 0.25;
    }
    case 'text': {
      const words = fade(differingBits(a, b, 0, 8), 10);
      const length = fade(Math.abs((a[8] ?? 0) - (b[8] ?? 0)), 8);
      return words * 0.75 + length * 0.25;
    }
    case 'clip':
    case 'map':
    case 'font':
    case 'film':
    case 'other':
      return null;
  }
}
