import { previewSize, type Raster } from '../../reading.ts';

const height = 150;
/** As words: opaque, then blue, green and red. */
const ink = 0xff5c623c;
const differs = 0xff2048c4;

/** The older sound above the newer one, aligned, all channels in one; stretches that differ in another colour. */
export function drawWaveforms(
  old: readonly Float32Array[],
  now: readonly Float32Array[],
  sampleRates: readonly [number, number],
  shiftSeconds: number,
  ranges: readonly { from: number; to: number }[],
): Raster {
  const begin = Math.min(0, shiftSeconds);
  const framesOf = ([first]: readonly Float32Array[]): number => first?.length ?? 0;
  const end = Math.max(framesOf(now) / sampleRates[1], framesOf(old) / sampleRates[0] + shiftSeconds);
  const rgba = new Uint8Array(previewSize * height * 4);
  const pixels = new Uint32Array(rgba.buffer);
  const secondsOf = (x: number): number => begin + ((end - begin) * x) / previewSize;
  const draw = (channels: readonly Float32Array[], rate: number, shift: number, top: number): void => {
    const half = height / 4 - 4;
    for (let x = 0; x < previewSize; x++) {
      const from = Math.max(0, Math.floor((secondsOf(x) - shift) * rate));
      const to = Math.min(framesOf(channels), Math.ceil((secondsOf(x + 1) - shift) * rate));
      if (to <= from) continue;
      let [low, high] = [0, 0];
      // Of long stretches every n-th sample: what stands out stands out in these too.
      const every = Math.max(1, Math.floor((to - from) / 400));
      for (const samples of channels)
        for (let at = from; at < to; at += every) {
          low = Math.min(low, samples[at] ?? 0);
          high = Math.max(high, samples[at] ?? 0);
        }
      const isOther = ranges.some((range) => secondsOf(x + 1) > range.from && secondsOf(x) < range.to);
      const middle = top + height / 4;
      for (
        let y = Math.round(middle - Math.min(1, high) * half);
        y <= Math.round(middle - Math.max(-1, low) * half);
        y++
      )
        pixels[y * previewSize + x] = isOther ? differs : ink;
    }
  };
  draw(old, sampleRates[0], shiftSeconds, 0);
  draw(now, sampleRates[1], 0, height / 2);
  return { width: previewSize, height, rgba };
}
