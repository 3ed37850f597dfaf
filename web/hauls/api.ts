import type * as z from 'zod';
import type { HaulSettings } from '../../contract/haul-settings.ts';
import {
  haulAssetsSchema,
  haulPlanSchema,
  haulResultsSchema,
  haulRunSchema,
  haulSchema,
  haulsSchema,
  profilesSchema,
  startedRunSchema,
  type Haul,
  type HaulAssets,
  type HaulPlan,
  type HaulRequest,
  type HaulRun,
  type Profile,
  type Verdict,
} from '../../contract/hauls.ts';
import { address, api, through } from '../ui/api.ts';

export const {
  useHaulsQuery,
  useMakeHaulMutation,
  useChangeHaulMutation,
  useRemoveHaulMutation,
  useHaulAssetsQuery,
  useUncollectMutation,
  useHaulPlanQuery,
  useRunHaulMutation,
  useRunsQuery,
  useForgetRunMutation,
  useResultsQuery,
  useProfilesQuery,
  useKeepProfileMutation,
  useDropProfileMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    hauls: build.query<Haul[], number>({
      query: (channel) => address('/hauls', { channel }),
      transformResponse: through(haulsSchema),
      providesTags: ['haul'],
    }),
    makeHaul: build.mutation<Haul, { channel: number; name: string }>({
      query: (body) => ({ url: '/hauls', method: 'POST', body }),
      transformResponse: through(haulSchema),
      invalidatesTags: ['haul'],
    }),
    changeHaul: build.mutation<Haul, { id: number; name?: string; settings?: HaulSettings }>({
      query: ({ id, ...body }) => ({ url: `/hauls/${id}`, method: 'PUT', body }),
      transformResponse: through(haulSchema),
      invalidatesTags: ['haul'],
    }),
    removeHaul: build.mutation<unknown, number>({
      query: (id) => ({ url: `/hauls/${id}`, method: 'DELETE' }),
      invalidatesTags: ['haul'],
    }),
    haulAssets: build.query<HaulAssets, { id: number; offset: number; limit: number }>({
      query: ({ id, ...asked }) => address(`/hauls/${id}/assets`, asked),
      transformResponse: through(haulAssetsSchema),
      providesTags: ['haul'],
    }),
    uncollect: build.mutation<unknown, { id: number; paths: string[] | null }>({
      query: ({ id, paths }) => ({ url: `/hauls/${id}/uncollect`, method: 'POST', body: { paths } }),
      invalidatesTags: ['haul'],
    }),
    haulPlan: build.query<HaulPlan, HaulRequest & { offset: number; limit: number }>({
      query: (body) => ({ url: '/hauls/plan', method: 'POST', body }),
      transformResponse: through(haulPlanSchema),
      providesTags: ['haul', 'assets', 'links', 'names', 'textures'],
    }),
    runHaul: build.mutation<z.infer<typeof startedRunSchema>, HaulRequest & { folder: string }>({
      query: (body) => ({ url: '/hauls/run', method: 'POST', body }),
      transformResponse: through(startedRunSchema),
      invalidatesTags: ['haul runs'],
    }),
    runs: build.query<HaulRun[], number>({
      query: (channel) => address('/hauls/runs', { channel }),
      transformResponse: through(haulRunSchema.array()),
      providesTags: ['haul runs'],
    }),
    forgetRun: build.mutation<unknown, number>({
      query: (id) => ({ url: `/hauls/runs/${id}`, method: 'DELETE' }),
      invalidatesTags: ['haul runs'],
    }),
    results: build.query<
      z.infer<typeof haulResultsSchema>,
      { run: number; verdict: Verdict | ''; offset: number; limit: number }
    >({
      query: ({ run, ...asked }) => address(`/hauls/runs/${run}/results`, asked),
      transformResponse: through(haulResultsSchema),
      providesTags: ['haul runs'],
    }),
    profiles: build.query<Profile[], undefined>({
      query: () => '/profiles',
      transformResponse: through(profilesSchema),
      providesTags: ['haul'],
    }),
    keepProfile: build.mutation<Profile[], { name: string; settings: HaulSettings }>({
      query: (body) => ({ url: '/profiles', method: 'PUT', body }),
      transformResponse: through(profilesSchema),
      invalidatesTags: ['haul'],
    }),
    dropProfile: build.mutation<Profile[], string>({
      query: (name) => ({ url: address('/profiles', { name }), method: 'DELETE' }),
      transformResponse: through(profilesSchema),
      invalidatesTags: ['haul'],
    }),
  }),
});
