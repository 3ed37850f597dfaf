/** The last line of `worvel bench NAME --json`; `met` compares what was measured with what was asked. */
export interface BenchResult {
  bench: string;
  figures: Record<string, number>;
  ratios: Record<string, number>;
  met: boolean;
}
