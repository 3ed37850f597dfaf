import { animatedWebp } from '../../../core/kinds/picture/write/animated-webp.ts';
import type { ModelCanvas } from './model-canvas.ts';

export interface TurntableOptions {
  pixels: number;
  /** Pictures of one turn. */
  frames: number;
  milliseconds: number;
  onFrame?: (made: number) => void;
  signal?: AbortSignal;
}

/**
 * A model that turns once, round and round, as an animated WebP on a clear ground: from the fixed camera that all stills have.
 * @throws Error where the browser writes no WebP; AbortError where it was stopped
 */
export async function turntableOf(
  canvas: Pick<ModelCanvas, 'still'>,
  { pixels, frames, milliseconds, onFrame, signal }: TurntableOptions,
): Promise<Blob> {
  const stills: Uint8Array[] = [];
  for (let frame = 0; frame < frames; frame++) {
    signal?.throwIfAborted();
    const still = await canvas.still(pixels, pixels, {
      turned: (2 * Math.PI * frame) / frames,
      type: 'image/webp',
    });
    if (still?.type !== 'image/webp') throw new Error('this browser writes no WebP pictures');
    stills.push(new Uint8Array(await still.arrayBuffer()));
    onFrame?.(frame + 1);
  }
  const file = animatedWebp(stills, { width: pixels, height: pixels, milliseconds });
  return new Blob([file as Uint8Array<ArrayBuffer>], { type: 'image/webp' });
}
