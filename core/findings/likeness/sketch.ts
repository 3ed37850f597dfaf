import type { Kind } from '../../../contract/kinds.ts';
import { modelSignatureParts } from '../../kinds/model/signature.ts';
import { pictureSignatureParts } from '../../kinds/picture/signature.ts';
import { soundSignatureParts } from '../../kinds/sound/signature.ts';
import { textSignatureParts } from '../../kinds/text/signature.ts';

/** 64 bits that differ in few where signatures are near one another, as two words. */
export type Sketch = readonly [low: number, high: number];

/** Parts of a signature that are looked for each by itself: what one misses another finds. */
interface Part {
  from: number;
  to: number;
  /** Whether its bytes are bits already. */
  isBits: boolean;
}

const partsOf: Partial<Record<Kind, readonly Part[]>> = {
  picture: [
    { from: pictureSignatureParts.waves, to: pictureSignatureParts.squares, isBits: true },
    { from: pictureSignatureParts.squares, to: pictureSignatureParts.light, isBits: false },
  ],
  model: [{ from: 0, to: modelSignatureParts.size, isBits: false }],
  sound: [
    { from: 0, to: soundSignatureParts.length, isBits: false },
    { from: soundSignatureParts.beginning, to: soundSignatureParts.ending, isBits: false },
  ],
  text: [{ from: textSignatureParts.words, to: textSignatureParts.length, isBits: true }],
};

type Sketcher = (signature: Uint8Array) => Sketch;

/** Makes sketches of a kind's signatures, one for each of their parts. @param signatures all that will be compared */
export function sketchers(kind: Kind, signatures: readonly Uint8Array[]): Sketcher[] {
  return (partsOf[kind] ?? []).map((part) =>
    part.isBits
      ? (signature) => [word(signature, part.from), word(signature, part.from + 4)]
      : planeSketcher(signatures, part),
  );
}

/** Of so many bytes each plane takes the sum, some less the others. */
const bytesOfPlane = 16;

/**
 * On which side of 64 planes through their mean signatures lie (random hyperplanes after Charikar, 2002, of few ones each after
 * Achlioptas, 2003); the planes are the same every time.
 */
function planeSketcher(signatures: readonly Uint8Array[], { from, to }: Part): Sketcher {
  const planes = planesOf(from, to - from);
  const middles = new Float64Array(64);
  const every = Math.max(1, Math.floor(signatures.length / 5000));
  let count = 0;
  for (let at = 0; at < signatures.length; at += every, count++)
    for (let plane = 0; plane < 64; plane++)
      middles[plane] = (middles[plane] ?? 0) + sideOf(signatures[at] ?? new Uint8Array(0), planes, plane);
  for (let plane = 0; plane < 64; plane++) middles[plane] = (middles[plane] ?? 0) / Math.max(1, count);
  return (signature) => {
    let [low, high] = [0, 0];
    for (let plane = 0; plane < 64; plane++) {
      if (sideOf(signature, planes, plane) <= (middles[plane] ?? 0)) continue;
      if (plane < 32) low |= 1 << plane;
      else high |= 1 << (plane - 32);
    }
    return [low, high];
  };
}

function sideOf(signature: Uint8Array, planes: Int32Array, plane: number): number {
  let side = 0;
  const begin = plane * bytesOfPlane;
  for (let at = begin; at < begin + bytesOfPlane; at += 2)
    side += (signature[planes[at] ?? 0] ?? 0) - (signature[planes[at + 1] ?? 0] ?? 0);
  return side;
}

/** Places of bytes: of each plane one that counts for it, one against it, in turn. */
function planesOf(from: number, length: number): Int32Array {
  let state = 0x9e3779b9;
  return Int32Array.from({ length: bytesOfPlane * 64 }, () => {
    // xorshift32 (Marsaglia, 2003).
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return from + ((state >>> 0) % length);
  });
}

function word(signature: Uint8Array, at: number): number {
  return (
    (signature[at] ?? 0) |
    ((signature[at + 1] ?? 0) << 8) |
    ((signature[at + 2] ?? 0) << 16) |
    ((signature[at + 3] ?? 0) << 24)
  );
}
