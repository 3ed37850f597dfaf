import * as z from 'zod';
import {
  freshPartSchema,
  lexiconSchema,
  proposalSchema,
  readNameSchema,
  type FreshPart,
  type LexiconChange,
  type LexiconState,
  type Proposal,
  type ReadName,
} from '../../../contract/names.ts';
import { address, api, through } from '../../ui/api.ts';

interface OfBuild {
  channel: number;
  build: string;
}

export const {
  useLexiconQuery,
  useChangeLexiconMutation,
  useImportLexiconMutation,
  useProposalsQuery,
  useFreshPartsQuery,
  useReadNameQuery,
} = api.injectEndpoints({
  endpoints: (build) => ({
    lexicon: build.query<LexiconState, number>({
      query: (titleId) => `/titles/${titleId}/lexicon`,
      transformResponse: through(lexiconSchema),
      providesTags: ['names'],
    }),
    changeLexicon: build.mutation<LexiconState, { titleId: number; change: Partial<LexiconChange> }>({
      query: ({ titleId, change }) => ({
        url: `/titles/${titleId}/lexicon`,
        method: 'POST',
        body: change,
      }),
      transformResponse: through(lexiconSchema),
      invalidatesTags: ['names', 'assets'],
    }),
    importLexicon: build.mutation<LexiconState, { titleId: number; text: string }>({
      query: ({ titleId, text }) => ({
        url: `/titles/${titleId}/lexicon/file`,
        method: 'POST',
        body: { text },
      }),
      transformResponse: through(lexiconSchema),
      invalidatesTags: ['names', 'assets'],
    }),
    proposals: build.query<Proposal[], OfBuild>({
      query: (asked) => address('/names/proposals', { ...asked }),
      transformResponse: through(z.array(proposalSchema)),
      providesTags: ['names'],
    }),
    freshParts: build.query<FreshPart[], OfBuild>({
      query: (asked) => address('/names/fresh', { ...asked }),
      transformResponse: through(z.array(freshPartSchema)),
      providesTags: ['names'],
    }),
    readName: build.query<ReadName, OfBuild & { path: string }>({
      query: (asked) => address('/names/read', { ...asked }),
      transformResponse: through(readNameSchema),
      providesTags: ['names'],
    }),
  }),
});
