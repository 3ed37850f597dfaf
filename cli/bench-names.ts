export const benchNames = [
  'index',
  'damage',
  'read',
  'changes',
  'library',
  'search',
  'likeness',
  'truth',
  'intake',
] as const;
export type BenchName = (typeof benchNames)[number];
