import { newsSchema, type News } from '../../../contract/news.ts';
import type { SpanKey } from '../../../contract/pass.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useNewsQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    news: build.query<News, SpanKey>({
      query: (span) => address('/news', span),
      transformResponse: through(newsSchema),
      providesTags: ['findings', 'news'],
    }),
  }),
});
