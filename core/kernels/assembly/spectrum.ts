import { first, numbers, sums, waves } from './layout';

/** Samples of a window, and complex numbers that they make two by two. */
const windowSize: i32 = 1024;
const half: i32 = 512;
const bands: i32 = 32;
/** Tables that the host writes into `waves`: the window; of each factor its real part twice, its imaginary part with both signs. */
const factorsAt: usize = waves + 0x2000;
/** Real and imaginary parts of e to the power of -i pi k / 512. */
const turnsAt: usize = waves + 0x4000;
/** Two buffers of complex numbers, and the energies of bands that come out. */
const one: usize = sums;
const other: usize = sums + 0x2000;
const energies: usize = sums + 0x4000;

/** Samples of a window lie in `first`: interleaved, or of 32-bit floats one channel after the other. */
const sortFloats: i32 = 0;
const sortShort: i32 = 1;

/** Writes the sum of all channels, under the window. */
function fill(sort: i32, channels: i32, scale: f64): void {
  memory.fill(one, 0, windowSize * 8);
  for (let channel = 0; channel < channels; channel++) {
    const step: usize = sort == sortFloats ? 4 : (channels as usize) << (sort == sortShort ? 1 : 2);
    let from = first;
    if (sort == sortFloats) from += ((channel * windowSize) as usize) << 2;
    else from += (channel as usize) << (sort == sortShort ? 1 : 2);
    const end = one + ((windowSize as usize) << 3);
    if (sort == sortFloats)
      for (let to = one; to < end; to += 8, from += step)
        store<f64>(to, load<f64>(to) + (load<f32>(from) as f64));
    else if (sort == sortShort)
      for (let to = one; to < end; to += 8, from += step)
        store<f64>(to, load<f64>(to) + (load<i16>(from) as f64) * scale);
    else
      for (let to = one; to < end; to += 8, from += step)
        store<f64>(to, load<f64>(to) + (load<i32>(from) as f64) * scale);
  }
  for (let at: usize = 0; at < (windowSize as usize) << 3; at += 16)
    v128.store(one + at, f64x2.mul(v128.load(one + at), v128.load(waves + at)));
}

/** The Fourier transform of 512 complex numbers (Stockham's, in order without sorting). @returns where it lies */
function transform(): usize {
  let from = one;
  let to = other;
  for (let groups = half >> 1, size: usize = 16; groups >= 1; groups >>= 1, size <<= 1) {
    const apart = (groups as usize) * size;
    let read = from;
    let write = to;
    let factor = factorsAt;
    for (let group = 0; group < groups; group++, write += size) {
      const real = v128.load(factor);
      const imaginary = v128.load(factor, 16);
      for (const end = read + size; read < end; read += 16, write += 16) {
        const a = v128.load(read);
        const b = v128.load(read + apart);
        const rest = f64x2.sub(a, b);
        v128.store(write, f64x2.add(a, b));
        v128.store(
          write + size,
          f64x2.add(f64x2.mul(rest, real), f64x2.mul(v128.shuffle<f64>(rest, rest, 1, 0), imaginary)),
        );
      }
      factor += size << 1;
    }
    const next = from;
    from = to;
    to = next;
  }
  return from;
}

/** Energy of one frequency of the real samples, from the transform of their pairs. */
function energyOf(spectrum: usize, bin: i32): f64 {
  const near = spectrum + ((bin as usize) << 4);
  const far = spectrum + (((half - bin) as usize) << 4);
  const a = load<f64>(near);
  const b = load<f64>(near, 8);
  const c = load<f64>(far);
  const d = load<f64>(far, 8);
  const turn = turnsAt + ((bin as usize) << 4);
  const cosine = load<f64>(turn);
  const sine = load<f64>(turn, 8);
  const evenReal = (a + c) * 0.5;
  const evenImaginary = (b - d) * 0.5;
  const oddReal = (b + d) * 0.5;
  const oddImaginary = (c - a) * 0.5;
  const real = evenReal + cosine * oddReal - sine * oddImaginary;
  const imaginary = evenImaginary + cosine * oddImaginary + sine * oddReal;
  return real * real + imaginary * imaginary;
}

/**
 * Energies of 32 bands of a window whose samples lie in `first`; `numbers` has the first bin of each and the one after its last,
 * from 1 to 512.
 */
export function bandEnergies(sort: i32, channels: i32, scale: f64): void {
  fill(sort, channels, scale);
  const spectrum = transform();
  for (let band = 0; band < bands; band++) {
    const edges = numbers + ((band as usize) << 3);
    const after = load<i32>(edges, 4);
    let energy: f64 = 0;
    for (let bin = load<i32>(edges); bin < after; bin++) energy += energyOf(spectrum, bin);
    store<f64>(energies + ((band as usize) << 3), energy);
  }
}
