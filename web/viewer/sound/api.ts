import { spokenSchema, type SpokenStrings } from '../../../contract/voices.ts';
import { address, api, through } from '../../ui/api.ts';

interface Where {
  channel: number;
  build: string;
}

export const { useSpokenQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    spoken: build.query<SpokenStrings, Where & { path: string }>({
      query: (where) => address('/spoken', { ...where }),
      transformResponse: through(spokenSchema),
      providesTags: ['assets'],
    }),
  }),
});
