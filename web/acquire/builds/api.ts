import * as z from 'zod';
import {
  problemSchema,
  titlesSchema,
  type IntakeRequest,
  type Problem,
  type Title,
} from '../../../contract/builds.ts';
import { seenSourceSchema, type SeenSource } from '../../../contract/look.ts';
import { proposalSchema, type Proposal } from '../../../contract/reading.ts';
import { jobSchema, type Job } from '../../../contract/work.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useTitlesQuery, useProblemsQuery, useBringInMutation, useProposalQuery, useLookMutation } =
  api.injectEndpoints({
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
      proposal: build.query<Proposal | null, number>({
        query: (channel) => `/channels/${channel}/proposal`,
        transformResponse: through(proposalSchema.nullable()),
        providesTags: ['titles'],
      }),
      look: build.mutation<SeenSource, string>({
        query: (source) => ({ url: '/look', method: 'POST', body: { source } }),
        transformResponse: through(seenSourceSchema),
      }),
      bringIn: build.mutation<Job, Omit<IntakeRequest, 'releasedAt'> & { releasedAt?: string | undefined }>({
        query: (body) => ({ url: '/intake', method: 'POST', body }),
        transformResponse: through(jobSchema),
        invalidatesTags: ['titles'],
      }),
    }),
  });
