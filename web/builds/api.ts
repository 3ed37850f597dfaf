import { z } from 'zod';
import {
  problemSchema,
  titlesSchema,
  type IntakeRequest,
  type Problem,
  type Title,
} from '../../contract/builds.ts';
import { jobSchema, type Job } from '../../contract/work.ts';
import { address, api, through } from '../shell/api.ts';

export const { useTitlesQuery, useProblemsQuery, useBringInMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    titles: build.query<Title[], void>({
      query: () => '/titles',
      transformResponse: through(titlesSchema),
      providesTags: ['titles'],
    }),
    problems: build.query<Problem[], { channel: number; build: string }>({
      query: (where) => address('/problems', where),
      transformResponse: through(z.array(problemSchema)),
      providesTags: ['titles'],
    }),
    bringIn: build.mutation<Job, Omit<IntakeRequest, 'releasedAt'> & { releasedAt?: string | undefined }>({
      query: (body) => ({ url: '/intake', method: 'POST', body }),
      transformResponse: through(jobSchema),
      invalidatesTags: ['titles'],
    }),
  }),
});
