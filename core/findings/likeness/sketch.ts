import type { Kind } from '../../../contract/kinds.ts';

/** 64 bits that differ in few where signatures are near one another, as two words. */
export type Sketch = readonly [low: number, high: number];

/** Bytes of a signature that are bits already, by kind. */
const hasBits: ReadonlySet<Kind> = new Set(['picture', 'text']);

/**
 * Makes sketches of a kind's signatures. Where these are no bits, on which side of 64 planes through their mean they lie
 * (random hyperplanes after Charikar, 2002); the planes are the same every time.
 * @param signatures all that will be compared: their mean and spread set the planes
 */
export function sketcher(kind: Kind, signatures: readonly Uint8Array[]): (signature: Uint8Array) => Sketch {
  if (hasBits.has(kind)) return (signature) => [word(signature, 0), word(signature, 4)];
  const length = signatures[0]?.length ?? 0;
  const means = new Float64Array(length);
  const every = Math.max(1, Math.floor(signatures.length / 5000));
  let count = 0;
  for (let at = 0; at < signatures.length; at += every, count++)
    for (let part = 0; part < length; part++)
      means[part] = (means[part] ?? 0) + (signatures[at]?.[part] ?? 0);
  for (let part = 0; part < length; part++) means[part] = (means[part] ?? 0) / Math.max(1, count);
  const planes = planesOf(length);
  return (signature) => {
    let [low, high] = [0, 0];
    for (let plane = 0; plane < 64; plane++) {
      let side = 0;
      for (let part = 0; part < length; part++)
        side += ((signature[part] ?? 0) - (means[part] ?? 0)) * (planes[plane * length + part] ?? 0);
      if (side <= 0) continue;
      if (plane < 32) low |= 1 << plane;
      else high |= 1 << (plane - 32);
    }
    return [low, high];
  };
}

function planesOf(length: number): Float64Array {
  let state = 0x9e3779b9;
  const random = (): number => {
    // xorshift32 (Marsaglia, 2003).
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
  // The sum of three is near enough to a normal spread.
  return Float64Array.from({ length: length * 64 }, () => random() + random() + random() - 1.5);
}

function word(signature: Uint8Array, at: number): number {
  return (
    (signature[at] ?? 0) |
    ((signature[at + 1] ?? 0) << 8) |
    ((signature[at + 2] ?? 0) << 16) |
    ((signature[at + 3] ?? 0) << 24)
  );
}
