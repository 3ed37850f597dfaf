import { sizesSchema, type Sizes } from '../../contract/housekeeping.ts';
import { jobSchema, type Job } from '../../contract/work.ts';
import { api, through } from '../ui/api.ts';

export const { useSizesQuery, useCheckStoreMutation, useRemoveBuildMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    sizes: build.query<Sizes, void>({
      query: () => '/sizes',
      transformResponse: through(sizesSchema),
      providesTags: ['sizes'],
    }),
    checkStore: build.mutation<Job, void>({
      query: () => ({ url: '/check', method: 'POST' }),
      transformResponse: through(jobSchema),
    }),
    removeBuild: build.mutation<Job, number>({
      query: (id) => ({ url: `/builds/${id}`, method: 'DELETE' }),
      transformResponse: through(jobSchema),
    }),
  }),
});
