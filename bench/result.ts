import * as z from 'zod';

/** What is asked of a figure or a ratio. */
const askedSchema = z.object({
  /** What it is, as a table says it. */
  what: z.string(),
  most: z.number().optional(),
  least: z.number().optional(),
  /** Most or least that a quick run may give, which a busy machine's noise stays within; none where it is too small to tell. */
  quick: z.number().optional(),
});
export type Asked = z.infer<typeof askedSchema>;

/** The last line of `worvel bench NAME --json`; `met` compares what was measured with what was asked. */
export const benchResultSchema = z.object({
  bench: z.string(),
  figures: z.record(z.string(), z.number()),
  ratios: z.record(z.string(), z.number()),
  /** By the name of the figure or the ratio. */
  asked: z.record(z.string(), askedSchema),
  met: z.boolean(),
});
export type BenchResult = z.infer<typeof benchResultSchema>;

/** A result, with what was asked of it. */
export function resultOf(
  bench: string,
  figures: Record<string, number>,
  ratios: Record<string, number>,
  asked: Record<string, Asked>,
): BenchResult {
  const result = { bench, figures, ratios, asked, met: true };
  result.met = Object.entries(asked).every(([name, limits]) => isMet(measuredOf(result, name), limits));
  return result;
}

export function measuredOf(
  { figures, ratios }: Pick<BenchResult, 'figures' | 'ratios'>,
  name: string,
): number {
  return figures[name] ?? ratios[name] ?? NaN;
}

/** What could not be measured meets nothing. */
export function isMet(measured: number, { most = Infinity, least = -Infinity }: Asked): boolean {
  return measured <= most && measured >= least;
}
