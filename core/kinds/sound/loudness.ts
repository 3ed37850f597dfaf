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
  const loud = blocks.filter((power) => lufsOf(power) > gateLufs);
  if (loud.length === 0) return null;
  const relative = lufsOf(meanOf(loud)) - 10;
  return lufsOf(meanOf(loud.filter((power) => lufsOf(power) > relative)));
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
  let [x1, x2, y1, y2, z1, z2] = [0, 0, 0, 0, 0, 0];
  let [p1, p2, q1, q2, r1, r2] = [0, 0, 0, 0, 0, 0];
  const other = right ?? left;
  for (let part = 0; part < to.length; part++) {
    // What is left over at the end belongs to no block, unless there is but one.
    const end = to.length === 1 ? left.length : (part + 1) * hop;
    let [energy, otherEnergy] = [0, 0];
    for (let at = part * hop; at < end; at++) {
      const x = left[at] ?? 0;
      const p = other[at] ?? 0;
      const y = b0 * x + b1 * x1 + b2 * x2 - a1 * y1 - a2 * y2;
      const q = b0 * p + b1 * p1 + b2 * p2 - a1 * q1 - a2 * q2;
      const z = c0 * y + c1 * y1 + c2 * y2 - d1 * z1 - d2 * z2;
      const r = c0 * q + c1 * q1 + c2 * q2 - d1 * r1 - d2 * r2;
      x2 = x1;
      x1 = x;
      y2 = y1;
      y1 = y;
      z2 = z1;
      z1 = z;
      p2 = p1;
      p1 = p;
      q2 = q1;
      q1 = q;
      r2 = r1;
      r1 = r;
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
  [0.001708984375, 0.010986328125, -0.0196533203125, 0.033203125, -0.0594482421875, 0.1373291015625, 0.97216796875, -0.102294921875, 0.047607421875, -0.026611328125, 0.014892578125, -0.00830078125],
  [-0.0291748046875, 0.029296875, -0.0517578125, 0.089111328125, -0.16650390625, 0.465087890625, 0.77978515625, -0.2003173828125, 0.1015625, -0.0582275390625, 0.0330810546875, -0.0189208984375],
]; // prettier-ignore
const taps = 12;
const filters = [...phases, ...phases.map((phase) => [...phase].reverse())].map((phase) =>
  Float64Array.from(phase),
);
/** No sample between can rise above what is within a filter's reach by more than the sum of its factors. */
const mostRise = Math.max(
  ...filters.map((phase) => phase.reduce((sum, factor) => sum + Math.abs(factor), 0)),
);

/** True peak in dBTP, the highest of all channels; null of silence. */
export function truePeak(channels: readonly Float32Array[]): number | null {
  let peak = 0;
  for (const samples of channels)
    for (let at = 0; at < samples.length; at++) {
      const value = Math.abs(samples[at] ?? 0);
      if (value > peak) peak = value;
    }
  if (peak === 0) return null;
  const floor = Math.max(peak / mostRise, candidateFloor(channels, peak));
  for (const samples of channels) {
    let before = 0;
    let now = Math.abs(samples[0] ?? 0);
    for (let at = 0; at < samples.length; at++) {
      const next = Math.abs(samples[at + 1] ?? 0);
      // What lies between samples rises highest beside one that is higher than its neighbours, and not far above it.
      if (now >= floor && now >= before && now >= next) peak = Math.max(peak, between(samples, at));
      before = now;
      now = next;
    }
  }
  return 20 * Math.log10(peak);
}

/** So many of the highest samples are looked between: the true peak is beside one of them. */
const mostCandidates = 50_000;
const bins = 512;

/** The height from which on no more samples than that are higher than their neighbours. */
function candidateFloor(channels: readonly Float32Array[], peak: number): number {
  const counts = new Uint32Array(bins + 1);
  for (const samples of channels) {
    let before = 0;
    let now = Math.abs(samples[0] ?? 0);
    for (let at = 0; at < samples.length; at++) {
      const next = Math.abs(samples[at + 1] ?? 0);
      if (now >= before && now >= next) {
        const bin = (now / peak) * bins;
        counts[bin | 0] = (counts[bin | 0] ?? 0) + 1;
      }
      before = now;
      now = next;
    }
  }
  let bin = bins;
  // The highest bin counts in full, however many are in it.
  for (let sum = counts[bins] ?? 0; bin > 0; bin--) {
    sum += counts[bin - 1] ?? 0;
    if (sum > mostCandidates) break;
  }
  return (Math.min(bin, bins - 1) / bins) * peak;
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
