/** Where buffers lie in the memory, which never grows: the first page is the compiler's own. Offsets and sizes in bytes. */

/** Pixels of a strip: what goes in and what comes out lies in buffers of so many. */
export const stripPixels: i32 = 0x10000;

export const tables: usize = 0x10000;
/** Tables of sounds, floats of 64 bits, which are written once too. */
export const waves: usize = 0x18000;
/** Numbers of 32 bits that go along with a strip: edges, samples, sums of tiles. */
export const numbers: usize = 0x20000;
/** Floats of 64 bits: sums. */
export const sums: usize = 0x60000;
export const steps: usize = 0xa0000;
export const first: usize = 0xe0000;
export const second: usize = 0x120000;
export const output: usize = 0x160000;
