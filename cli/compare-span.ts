import * as z from 'zod';
import { jobSchema } from '../contract/work.ts';
import { getJson, type Connection } from './connection.ts';
import { followReading } from './follow-reading.ts';
import type { SpanOptions } from './options.ts';
import { clearProgress, showProgress } from './progress.ts';

/** A span as the command line names it. */
export type SpanNames = Record<'title' | 'channel' | 'from' | 'to', string>;

export function spanOf({ title, channel, from, to }: SpanOptions): SpanNames {
  return { title, channel, from, to };
}

/** Compares a span, as far as that was not done. */
export async function compareSpan(application: Connection, span: SpanNames): Promise<void> {
  const { title, channel } = span;
  for (const build of [span.from, span.to]) await followReading(application, { title, channel, build });
  const { job } = z
    .object({ job: jobSchema.nullable() })
    .parse(await getJson(application, 'evidence', { body: span }));
  if (job) await application.follow(job, showProgress);
  clearProgress();
}
