import * as z from 'zod';
import { arrangementSchema, type Arrangement } from '../../../contract/arrangements.ts';
import { fittingClipsSchema, type FittingClips } from '../../../contract/clips.ts';
import { address, api, through } from '../../ui/api.ts';

const arrangementsSchema = z.array(arrangementSchema);

export const {
  useFittingClipsQuery,
  useArrangementsQuery,
  useKeepArrangementMutation,
  useDropArrangementMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    fittingClips: build.query<FittingClips, { channel: number; build: string; path: string }>({
      query: (asked) => address('/fitting-clips', asked),
      transformResponse: through(fittingClipsSchema),
      providesTags: ['assets'],
    }),
    arrangements: build.query<Arrangement[], { channel: number; path: string }>({
      query: (asked) => address('/arrangements', asked),
      transformResponse: through(arrangementsSchema),
      providesTags: ['arrangements'],
    }),
    keepArrangement: build.mutation<unknown, Arrangement & { channel: number }>({
      query: (body) => ({ url: '/arrangements', method: 'PUT', body }),
      invalidatesTags: ['arrangements'],
    }),
    dropArrangement: build.mutation<unknown, { channel: number; path: string; name: string }>({
      query: (body) => ({ url: '/arrangements/drop', method: 'POST', body }),
      invalidatesTags: ['arrangements'],
    }),
  }),
});
