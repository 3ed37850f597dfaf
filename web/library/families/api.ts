import { familySchema, type Family } from '../../../contract/families.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useFamilyQuery, useLazyFamilyQuery, useCorrectFamilyMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    family: build.query<Family, { channel: number; build: string; path: string }>({
      query: (asked) => address('/family', asked),
      transformResponse: through(familySchema),
      providesTags: ['names', 'links'],
    }),
    correctFamily: build.mutation<
      unknown,
      { channel: number; paths: string[]; with: string | null; undo?: boolean }
    >({
      query: (body) => ({ url: '/family/correct', method: 'POST', body }),
      invalidatesTags: ['names', 'links'],
    }),
  }),
});
