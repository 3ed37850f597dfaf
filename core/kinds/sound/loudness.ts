import { findKernels } from '../../kernels/kernels.ts';

/**
 * Loudness and true peak after Recommendation ITU-R BS.1770-4: K-weighting in two filters (annex 1), gating of blocks of
 * 400 ms at -70 LUFS and at 10 LU below their mean, peaks of the signal at four times its rate (annex 2).
 */

/** Factors of a filter of the second order: b0, b1, b2, a1, a2. */
type Biquad = readonly [number, number, number, number, number];

/**
 * The two filters at any rate: the recommendation gives factors for 48 kHz alone. These are the analogue filters that they
 * are the bilinear transform of (values from memory; at 48 kHz they give the published factors, see the test).
 */
export function weightingFilters(sampleRate: number): readonly [Biquad, Biquad] {
  const shelfTangent = Math.tan((Math.PI * 1681.974450955533) / sampleRate);
  const shelfQ = 0.7071752369554196;
  const high = 10 ** (3.999843853973347 / 20);
  const middle = high ** 0.4996667741545416;
  const shelf = 1 + shelfTangent / shelfQ + shelfTangent ** 2;
  const passTangent = Math.tan((Math.PI * 38.13547087602444) / sampleRate);
  const passQ = 0.5003270373238773;
  const pass = 1 + passTangent / passQ + passTangent ** 2;
  return [
    [
      (high + (middle * shelfTangent) / shelfQ + shelfTangent ** 2) / shelf,
      (2 * (shelfTangent ** 2 - high)) / shelf,
      (high - (middle * shelfTangent) / shelfQ + shelfTangent ** 2) / shelf,
      (2 * (shelfTangent ** 2 - 1)) / shelf,
      (1 - shelfTangent / shelfQ + shelfTangent ** 2) / shelf,
    ],
    [1, -2, 1, (2 * (passTangent ** 2 - 1)) / pass, (1 - passTangent / passQ + passTangent ** 2) / pass],
  ];
}

/** Channels behind weigh 1.41, the one for low effects nothing; in the order of WAV: left, right, centre, low, behind. */
function weightOf(channel: number, channels: number): number {
  if (channels >= 6) return channel === 3 ? 0 : channel > 3 ? 1.41 : 1;
  return channels === 5 && channel > 2 ? 1.41 : 1;
}

const gateLufs = -70;

/**
 * Integrated loudness in LUFS; null of silence. What is shorter than a block is one block.
 * @param channels floats of each channel, 1 being full scale
 */
export function integratedLoudness(channels: readonly Float32Array[], sampleRate: number): number | null {
  const loud = blockPowers(channels, sampleRate).filter((power) => lufsOf(power) > gateLufs);
  if (loud.length === 0) return null;
  const relative = lufsOf(meanOf(loud)) - 10;
  return lufsOf(meanOf(loud.filter((power) => lufsOf(power) > relative)));
}

/** Momentary loudness in LUFS of each block of 400 ms, one begun every 100 ms (EBU Tech 3341); -Infinity of silence. */
export function momentaryLoudness(channels: readonly Float32Array[], sampleRate: number): Float32Array {
  return Float32Array.from(blockPowers(channels, sampleRate), lufsOf);
}

/** Weighted power of each block of 400 ms, one begun every 100 ms. */
function blockPowers(channels: readonly Float32Array[], sampleRate: number): number[] {
  const frames = channels[0]?.length ?? 0;
  const hop = Math.max(1, Math.round(sampleRate * 0.1));
  const hops = Math.max(1, Math.floor(frames / hop));
  // Weighted energy of every 100 ms; a block is four of these.
  const energies = new Float64Array(hops);
  const filters = weightingFilters(sampleRate);
  for (let channel = 0; channel < channels.length; channel += 2) {
    const [first, second] = [channels[channel], channels[channel + 1]];
    if (first)
      addEnergies(
        first,
        second ?? null,
        filters,
        hop,
        [weightOf(channel, channels.length), weightOf(channel + 1, channels.length)],
        energies,
      );
  }
  const blocks: number[] = [];
  const width = Math.min(4, hops);
  for (let at = 0; at + width <= hops; at++) {
    let sum = 0;
    for (let part = at; part < at + width; part++) sum += energies[part] ?? 0;
    blocks.push(sum / (width * (hops === 1 ? Math.max(1, frames) : hop)));
  }
  return blocks;
}

/** Of two channels at once, or of one: they wait for one another's sums no more than for their own. */
function addEnergies(
  left: Float32Array,
  right: Float32Array | null,
  [[b0, b1, b2, a1, a2], [c0, c1, c2, d1, d2]]: readonly [Biquad, Biquad],
  hop: number,
  [leftWeight, rightWeight]: readonly [number, number],
  to: Float64Array,
): void {
  // Transposed direct form II: two memories to a filter.
  let [s1, s2, t1, t2] = [0, 0, 0, 0];
  let [u1, u2, v1, v2] = [0, 0, 0, 0];
  const other = right ?? left;
  for (let part = 0; part < to.length; part++) {
    // What is left over at the end belongs to no block, unless there is but one.
    const end = to.length === 1 ? left.length : (part + 1) * hop;
    let energy = 0;
    let otherEnergy = 0;
    for (let at = part * hop; at < end; at++) {
      const x = left[at] ?? 0;
      const p = other[at] ?? 0;
      const y = b0 * x + s1;
      const q = b0 * p + u1;
      s1 = b1 * x - a1 * y + s2;
      u1 = b1 * p - a1 * q + u2;
      s2 = b2 * x - a2 * y;
      u2 = b2 * p - a2 * q;
      const z = c0 * y + t1;
      const r = c0 * q + v1;
      t1 = c1 * y - d1 * z + t2;
      v1 = c1 * q - d1 * r + v2;
      t2 = c2 * y - d2 * z;
      v2 = c2 * q - d2 * r;
      energy += z * z;
      otherEnergy += r * r;
    }
    to[part] = (to[part] ?? 0) + energy * leftWeight + (right ? otherEnergy * rightWeight : 0);
  }
}

function lufsOf(power: number): number {
  return -0.691 + 10 * Math.log10(power);
}

function meanOf(values: readonly number[]): number {
  return values.reduce((sum, value) => sum + value, 0) / Math.max(1, values.length);
}

/** The first two phases of the filter of annex 2, table; the other two are these backwards (from memory). */
const phases: readonly (readonly number[])[] = [
  [
    0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625,
    0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125,
  ],
  [
    -0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625,
    0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375,
  ],
];
const taps = 12;
const filters = [...phases, ...phases.map((phase) => [...phase].reverse())].map((phase) =>
  Float64Array.from(phase),
);
/** No sample between can rise above what is within a filter's reach by more than the sum of its factors. */
const mostRise = Math.max(
  ...filters.map((phase) => phase.reduce((sum, factor) => sum + Math.abs(factor), 0)),
);

const blockFrames = 256;
/** So many of the blocks with the highest samples are looked between: the true peak is in one of them. */
const mostBlocks = 3000;

/** True peak in dBTP, the highest of all channels; null of silence. */
export function truePeak(channels: readonly Float32Array[]): number | null {
  const maxima = channels.map((samples) => blockMaxima(samples));
  let peak = 0;
  for (const ofChannel of maxima) for (const maximum of ofChannel) if (maximum > peak) peak = maximum;
  if (peak === 0) return null;
  const floor = Math.max(peak / mostRise, floorOfBlocks(maxima));
  for (const [channel, samples] of channels.entries())
    for (const [block, maximum] of (maxima[channel] ?? new Float32Array(0)).entries()) {
      if (maximum < floor) continue;
      const from = block * blockFrames;
      let before = Math.abs(samples[from - 1] ?? 0);
      let now = Math.abs(samples[from] ?? 0);
      for (let at = from; at < Math.min(samples.length, from + blockFrames); at++) {
        const next = Math.abs(samples[at + 1] ?? 0);
        // What lies between samples rises highest beside one that is higher than its neighbours, and not far above it.
        if (now >= floor && now >= before && now >= next) peak = Math.max(peak, between(samples, at));
        before = now;
        now = next;
      }
    }
  return 20 * Math.log10(peak);
}

/** Highest sample of each block, whatever its sign. @param kernels null where it is to be found without */
export function blockMaxima(samples: Float32Array, kernels = findKernels()): Float32Array {
  const maxima = new Float32Array(Math.ceil(samples.length / blockFrames));
  if (kernels) {
    const { first, output, stripPixels } = kernels;
    for (let from = 0; from < samples.length; from += stripPixels) {
      const part = samples.subarray(from, from + stripPixels);
      first.set(new Uint8Array(part.buffer, part.byteOffset, part.byteLength));
      kernels.findPeaks(part.length, blockFrames);
      const count = Math.ceil(part.length / blockFrames);
      maxima.set(new Float32Array(output.buffer, output.byteOffset, count), from / blockFrames);
    }
    return maxima;
  }
  for (let block = 0; block < maxima.length; block++) {
    const end = Math.min(samples.length, (block + 1) * blockFrames);
    let [low, high] = [0, 0];
    for (let at = block * blockFrames; at < end; at++) {
      const value = samples[at] ?? 0;
      if (value > high) high = value;
      else if (value < low) low = value;
    }
    maxima[block] = Math.max(high, -low);
  }
  return maxima;
}

/** The height that no more blocks than that reach. */
function floorOfBlocks(maxima: readonly Float32Array[]): number {
  const count = maxima.reduce((sum, { length }) => sum + length, 0);
  if (count <= mostBlocks) return 0;
  const all = new Float32Array(count);
  let at = 0;
  for (const ofChannel of maxima) {
    all.set(ofChannel, at);
    at += ofChannel.length;
  }
  return all.sort()[count - mostBlocks] ?? 0;
}

/** Highest of the four times as many values around a sample. */
function between(samples: Float32Array, centre: number): number {
  let peak = 0;
  // The filter looks back by six samples: these two cover the ways to both neighbours.
  for (let at = centre + 5; at <= centre + 6; at++)
    for (const filter of filters) {
      let sum = 0;
      for (let tap = 0; tap < taps; tap++) sum += (filter[tap] ?? 0) * (samples[at - tap] ?? 0);
      if (sum > peak) peak = sum;
      else if (-sum > peak) peak = -sum;
    }
  return peak;
}
