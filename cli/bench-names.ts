/** Benchmarks, and in how many minutes each ends on two cores; one that takes longer is ended. */
export const benchMinutes = {
  index: 12,
  update: 10,
  read: 25,
  changes: 20,
  search: 15,
  library: 12,
  damage: 12,
  likeness: 20,
  truth: 20,
  intake: 25,
  workers: 12,
  formats: 10,
  look: 10,
  haul: 10,
  publish: 15,
} as const;
export type BenchName = keyof typeof benchMinutes;
export const benchNames = Object.keys(benchMinutes) as BenchName[];
