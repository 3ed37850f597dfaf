/** A way in which bytes may be pixels. */
export interface PixelGuess {
  width: number;
  height: number;
  /** As sheets call it. */
  format: 'r8' | 'rgb8' | 'rgba8' | 'bgra8' | 'rgb565';
  bytesPerPixel: number;
  /** From 0 to 1: how much a pixel is like the one below it, against any other. */
  smoothness: number;
}

const pixelBytes = [
  { format: 'rgba8', bytesPerPixel: 4 },
  { format: 'rgb8', bytesPerPixel: 3 },
  { format: 'rgb565', bytesPerPixel: 2 },
  { format: 'r8', bytesPerPixel: 1 },
] as const;

const lookedPixels = 20_000;

/** Widths and pixel formats, the smoothest first. @param bytes pixels and nothing else, as far as is known */
export function pixelGuesses(bytes: Uint8Array, most = 8): PixelGuess[] {
  const guesses: PixelGuess[] = [];
  for (const { format, bytesPerPixel } of pixelBytes) {
    const pixels = Math.floor(bytes.length / bytesPerPixel);
    const near = differenceAt(bytes, bytesPerPixel, 1);
    for (const width of widthsFor(pixels)) {
      const below = differenceAt(bytes, bytesPerPixel, width);
      const far = differenceAt(bytes, bytesPerPixel, Math.floor(width / 2) + width * 7 + 3);
      if (far === 0) continue;
      // A wrong width may be as smooth along its rows, and never from row to row; a wrong pixel format is in neither.
      const smoothness = Math.max(0, 1 - (below + near) / (2 * far));
      guesses.push({ width, height: Math.floor(pixels / width), format, bytesPerPixel, smoothness });
    }
  }
  return guesses.sort((a, b) => b.smoothness - a.smoothness).slice(0, most);
}

/** Widths that come out even, or that textures have. */
function widthsFor(pixels: number): number[] {
  const widths = new Set<number>();
  for (let width = 8; width <= Math.min(8192, pixels / 4); width++)
    if (pixels % width === 0 && pixels / width <= 16_384) widths.add(width);
  for (let width = 16; width <= Math.min(4096, pixels / 4); width *= 2) widths.add(width);
  return [...widths];
}

/** How much pixels differ on the average from those so many pixels on. */
function differenceAt(bytes: Uint8Array, bytesPerPixel: number, distance: number): number {
  const lag = distance * bytesPerPixel;
  const length = bytes.length - lag;
  if (length <= 0) return 0;
  const step = Math.max(1, Math.floor(length / (lookedPixels * bytesPerPixel)));
  let sum = 0;
  let count = 0;
  for (let at = 0; at < length; at += step) {
    sum += Math.abs((bytes[at] ?? 0) - (bytes[at + lag] ?? 0));
    count++;
  }
  return sum / count;
}

/** A way in which bytes may be samples. */
export interface SampleGuess {
  bits: 8 | 16 | 24;
  channels: 1 | 2;
  isSigned: boolean;
  isLittle: boolean;
  /** From 0 to 1: how much a sample is like the one before it. */
  smoothness: number;
}

/** Widths, orders and channels of samples, the smoothest first. */
export function sampleGuesses(bytes: Uint8Array, most = 6): SampleGuess[] {
  const guesses: SampleGuess[] = [];
  for (const bits of [16, 8, 24] as const)
    for (const isLittle of bits === 8 ? [true] : [true, false])
      for (const isSigned of bits === 8 ? [false, true] : [true])
        for (const channels of [1, 2] as const) {
          const smoothness = samplesLike(bytes, { bits, channels, isSigned, isLittle });
          guesses.push({ bits, channels, isSigned, isLittle, smoothness });
        }
  return guesses.sort((a, b) => b.smoothness - a.smoothness).slice(0, most);
}

function samplesLike(
  bytes: Uint8Array,
  { bits, channels, isSigned, isLittle }: Omit<SampleGuess, 'smoothness'>,
): number {
  const width = bits / 8;
  const count = Math.min(lookedPixels, Math.floor(bytes.length / width));
  if (count < 64) return 0;
  const values = new Float64Array(count);
  for (let number = 0; number < count; number++) {
    let value = 0;
    for (let part = 0; part < width; part++) {
      const byte = bytes[number * width + (isLittle ? width - 1 - part : part)] ?? 0;
      value = value * 256 + byte;
    }
    const full = 256 ** width;
    values[number] = (isSigned ? (value >= full / 2 ? value - full : value) : value - full / 2) / (full / 2);
  }
  let mean = 0;
  for (const value of values) mean += value / count;
  let power = 0;
  let steps = 0;
  for (let number = 0; number < count; number++) power += ((values[number] ?? 0) - mean) ** 2;
  for (let number = channels; number < count; number++)
    steps += ((values[number] ?? 0) - (values[number - channels] ?? 0)) ** 2;
  if (power === 0) return 0;
  // Of independent samples the steps have twice the power.
  return Math.max(0, 1 - steps / (2 * power));
}
