import { z } from 'zod';
import { jobSchema } from '../contract/work.ts';
import { findBuild, findChannel, type PlacedBuild } from '../server/acquire/builds/builds.ts';
import { addEvidenceJob } from '../server/changes/evidence/evidence-job.ts';
import { RecentSpans } from '../server/changes/findings/recent-spans.ts';
import { Library } from '../server/library/library.ts';
import { RecentNews } from '../server/changes/news/recent-news.ts';
import { ChannelTables } from '../server/library/search/channel-tables.ts';
import { printProgress } from './print-progress.ts';
import { askJson } from './session.ts';
import type { SpanNames } from './span-arguments.ts';
import { withDatabase, type Session } from './with-database.ts';
import { workHere } from './work-here.ts';
import { followJob } from './work-there.ts';

export interface ComparedSpan {
  from: PlacedBuild;
  to: PlacedBuild;
}

export interface SpanTools {
  session: Session;
  spans: RecentSpans;
  news: RecentNews;
}

/** Compares a span in this process, as far as that was not done, then works with it. */
export async function compareHere(
  data: string,
  { title, channel, from, to }: SpanNames,
  work: (span: ComparedSpan, tools: SpanTools) => Promise<void>,
): Promise<void> {
  await withDatabase(data, async (session) => {
    const { pool, address, folder } = session;
    const channelId = await findChannel(pool, title, channel);
    const span = { from: await findBuild(pool, channelId, from), to: await findBuild(pool, channelId, to) };
    const spans = new RecentSpans(pool);
    const { state } = await spans.evidence(span.from, span.to);
    if (state !== 'done')
      await workHere(session, await addEvidenceJob(pool, span.from, span.to), printProgress);
    if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
    const library = new Library(pool, address, new ChannelTables(pool, address, folder));
    try {
      await work(span, { session, spans, news: new RecentNews({ pool, library }, spans) });
    } finally {
      await library.close();
    }
  });
}

/** Has the server that runs on the data folder compare a span, as far as that was not done. */
export async function compareThere(server: string, span: SpanNames): Promise<void> {
  const { job } = z
    .object({ job: jobSchema.nullable() })
    .parse(await askJson(`${server}/api/evidence`, { body: span }));
  if (job) await followJob(server, job, printProgress);
  if (process.stderr.isTTY) process.stderr.write('\r\u001b[K');
}
