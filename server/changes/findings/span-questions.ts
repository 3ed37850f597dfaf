import type { FindingsPage, FindingsQuery } from '../../../contract/findings.ts';
import type { News } from '../../../contract/news.ts';
import type { NoiseTest, NoiseTrial } from '../../../contract/noise.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';

interface Span {
  from: PlacedBuild;
  to: PlacedBuild;
}

/** What the thread of spans is asked, and what it answers. */
export interface SpanQuestions {
  page: { parameters: Span & { query: FindingsQuery }; answer: FindingsPage };
  /** Paths of the findings that a query asks for: of a stretch of them, or of all. */
  paths: {
    parameters: Span & { query: FindingsQuery; stretch: { offset: number; limit: number } | null };
    answer: string[];
  };
  /** Lines of `worvel diff`, some thousands to a piece. */
  lines: { parameters: Span & { withEvidence: boolean }; answer: string[] };
  /** What a rule for noise would fold away. */
  trial: { parameters: Span & { test: NoiseTest }; answer: NoiseTrial };
  news: { parameters: Span; answer: News };
  /** Makes the findings of updates that came in. Whether there is work for the queue. */
  warm: { parameters: null; answer: boolean };
}

export type SpanQuestion = {
  [Name in keyof SpanQuestions]: { name: Name; parameters: SpanQuestions[Name]['parameters'] };
}[keyof SpanQuestions];
