import type { SerializedError } from '@reduxjs/toolkit';
import type { FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
import { z } from 'zod';
import {
  findingsPageSchema,
  markSchema,
  type Finding,
  type FindingsPage,
  type FindingsQuery,
  type Mark,
} from '../../contract/findings.ts';
import { address, api, through } from '../shell/api.ts';

export const pageSize = 200;

const findingsApi = api.injectEndpoints({
  endpoints: (build) => ({
    findings: build.query<FindingsPage, FindingsQuery>({
      query: (query) => address('/findings', query),
      transformResponse: through(findingsPageSchema),
      providesTags: ['findings'],
      keepUnusedDataFor: 120,
    }),
    mark: build.mutation<{ mark: Mark | null }, { query: FindingsQuery; path: string; mark: Mark | null }>({
      query: ({ query: { channel, from, to }, path, mark }) => ({
        url: '/marks',
        method: 'PUT',
        body: { channel, from, to, path, mark },
      }),
      transformResponse: through(z.object({ mark: markSchema.nullable() })),
      // The mark shows at once; what it does to the counts follows.
      async onQueryStarted({ query, path, mark }, { dispatch, queryFulfilled }) {
        const change = dispatch(
          findingsApi.util.updateQueryData('findings', query, (page) => {
            const finding = page.findings.find((candidate) => candidate.path === path);
            if (!finding) return;
            page.marks[finding.mark ?? 'open']--;
            page.marks[mark ?? 'open']++;
            finding.mark = mark;
          }),
        );
        await queryFulfilled.catch(() => change.undo());
      },
    }),
  }),
});

export const { useFindingsQuery, useMarkMutation } = findingsApi;

export interface FindingsWindow {
  page: FindingsPage | undefined;
  at: (index: number) => Finding | undefined;
  error: FetchBaseQueryError | SerializedError | undefined;
  isLoading: boolean;
  isFetching: boolean;
  refetch: () => void;
  /** The question whose answer holds the finding at this index. */
  queryAt: (index: number) => FindingsQuery;
}

/** The findings around those in view, of however many there are: never more than two pages at once. */
export function useFindingsWindow(query: FindingsQuery, first: number, last: number): FindingsWindow {
  const start = Math.floor(first / pageSize);
  const end = Math.max(start, Math.floor(last / pageSize));
  const pageQuery = (page: number): FindingsQuery => ({ ...query, offset: page * pageSize, limit: pageSize });
  const low = useFindingsQuery(pageQuery(start));
  const high = useFindingsQuery(pageQuery(end));
  return {
    page: low.data ?? high.data,
    at: (index) => {
      for (const { data } of [low, high]) {
        const finding = data && index >= data.offset ? data.findings[index - data.offset] : undefined;
        if (finding) return finding;
      }
      return undefined;
    },
    error: low.error,
    isLoading: low.isLoading,
    isFetching: low.isFetching,
    refetch: () => void low.refetch(),
    queryAt: (index) => pageQuery(Math.floor(index / pageSize)),
  };
}
