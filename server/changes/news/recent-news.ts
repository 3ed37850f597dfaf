import type { News } from '../../../contract/news.ts';
import type { PlacedBuild } from '../../acquire/builds/builds.ts';
import type { NewsRanks } from '../findings/find-page.ts';
import type { RecentSpans } from '../findings/recent-spans.ts';
import { makeNews, type NewsContext } from './make-news.ts';

/** News of the span that was asked for last: making them asks the library about every finding. */
export class RecentNews {
  private readonly context: NewsContext;
  private readonly spans: RecentSpans;
  private last: { key: string; made: ReturnType<typeof makeNews> } | null = null;

  constructor(context: NewsContext, spans: RecentSpans) {
    this.context = context;
    this.spans = spans;
  }

  async get(from: PlacedBuild, to: PlacedBuild): Promise<News> {
    return (await this.made(from, to)).news;
  }

  readonly ranks = async (from: PlacedBuild, to: PlacedBuild): Promise<NewsRanks> =>
    (await this.made(from, to)).ranks;

  private async made(from: PlacedBuild, to: PlacedBuild): ReturnType<typeof makeNews> {
    const { key, view } = await this.spans.keyed(from, to);
    const { state } = await this.spans.evidence(from, to);
    const whole = `${key} ${state}`;
    if (this.last?.key !== whole) this.last = { key: whole, made: makeNews(this.context, view, state) };
    try {
      return await this.last.made;
    } catch (error) {
      this.last = null;
      throw error;
    }
  }
}
