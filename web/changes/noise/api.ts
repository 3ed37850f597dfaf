import {
  noiseStateSchema,
  noiseTrialSchema,
  type NoiseState,
  type NoiseTest,
  type NoiseTrial,
} from '../../../contract/noise.ts';
import type { SpanKey } from '../../../contract/pass.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useNoiseRulesQuery, useSaveNoiseRulesMutation, useTryNoiseQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    noiseRules: build.query<NoiseState, number>({
      query: (title) => address('/noise', { title }),
      transformResponse: through(noiseStateSchema),
      providesTags: ['noise'],
    }),
    saveNoiseRules: build.mutation<NoiseState, NoiseState & { title: number }>({
      query: (body) => ({ url: '/noise', method: 'PUT', body }),
      transformResponse: through(noiseStateSchema),
      invalidatesTags: ['noise', 'findings', 'news'],
    }),
    tryNoise: build.query<NoiseTrial, SpanKey & { test: NoiseTest }>({
      query: (body) => ({ url: '/noise/try', method: 'POST', body }),
      transformResponse: through(noiseTrialSchema),
      providesTags: ['findings'],
    }),
  }),
});
