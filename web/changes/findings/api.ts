import type { SerializedError } from '@reduxjs/toolkit';
import type { FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
import * as z from 'zod';
import {
  findingPathsSchema,
  findingsPageSchema,
  type Finding,
  type FindingPathsQuery,
  type FindingsPage,
  type FindingsQuery,
} from '../../../contract/findings.ts';
import type { SpanKey } from '../../../contract/pass.ts';
import { address, api, through } from '../../ui/api.ts';

const pageSize = 200;

export const findingsApi = api.injectEndpoints({
  endpoints: (build) => ({
    findings: build.query<FindingsPage, FindingsQuery>({
      query: (query) => address('/findings', query),
      transformResponse: through(findingsPageSchema),
      providesTags: ['findings'],
      keepUnusedDataFor: 120,
    }),
    findingPaths: build.query<z.infer<typeof findingPathsSchema>, FindingPathsQuery>({
      query: (query) => address('/findings/paths', query),
      transformResponse: through(findingPathsSchema),
      keepUnusedDataFor: 0,
    }),
    startEvidence: build.mutation<{ job: number | null }, SpanKey>({
      query: (body) => ({ url: '/findings/evidence', method: 'POST', body }),
      transformResponse: through(z.object({ job: z.number().nullable() })),
      invalidatesTags: ['findings'],
    }),
    sayPair: build.mutation<unknown, SpanKey & { path: string; oldPath: string; said: 'joined' | 'parted' }>({
      query: (body) => ({ url: '/findings/pairs', method: 'PUT', body }),
      invalidatesTags: ['findings', 'news'],
    }),
  }),
});

export const { useFindingsQuery, useLazyFindingPathsQuery, useStartEvidenceMutation, useSayPairMutation } =
  findingsApi;

/** The query of a page that begins with a finding. */
export const pageQuery = (query: FindingsQuery, offset: number): FindingsQuery => ({
  ...query,
  offset,
  limit: pageSize,
});

export interface FindingsWindow {
  /** Undefined until the question as it is now was answered. */
  page: FindingsPage | undefined;
  /** The answer to the question before, while this one is on its way. */
  lastPage: FindingsPage | undefined;
  /** Those that are in view. */
  pages: FindingsPage[];
  at: (index: number) => Finding | undefined;
  error: FetchBaseQueryError | SerializedError | undefined;
  isLoading: boolean;
  isFetching: boolean;
  refetch: () => void;
}

/** The findings around those in view, of however many there are: never more than two pages at once. */
export function useFindingsWindow(query: FindingsQuery, first: number, last: number): FindingsWindow {
  const start = Math.floor(first / pageSize);
  const end = Math.max(start, Math.floor(last / pageSize));
  const low = useFindingsQuery(pageQuery(query, start * pageSize));
  const high = useFindingsQuery(pageQuery(query, end * pageSize));
  return {
    page: low.currentData ?? high.currentData,
    lastPage: low.data ?? high.data,
    pages: [...new Set([low.currentData, high.currentData])].flatMap((page) => page ?? []),
    at: (index) => {
      for (const { currentData: data } of [low, high]) {
        const finding = data && index >= data.offset ? data.findings[index - data.offset] : undefined;
        if (finding) return finding;
      }
      return undefined;
    },
    error: low.error,
    isLoading: low.isFetching && low.currentData === undefined,
    isFetching: low.isFetching,
    refetch: () => void low.refetch(),
  };
}

/** Paths of the findings from one place of the list to another, both included, whether they were in view or not. */
export function usePathsBetween(query: FindingsQuery): (first: number, last: number) => Promise<string[]> {
  const [getPaths] = useLazyFindingPathsQuery();
  return async (first, last) =>
    (await getPaths({ ...query, offset: first, limit: last - first + 1 }).unwrap()).paths;
}
