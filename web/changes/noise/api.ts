import {
  noiseRulesSchema,
  noiseTrialSchema,
  type NoiseRule,
  type NoiseTest,
  type NoiseTrial,
} from '../../../contract/noise.ts';
import type { SpanKey } from '../../../contract/pass.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useNoiseRulesQuery, useSaveNoiseRulesMutation, useTryNoiseQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    noiseRules: build.query<NoiseRule[], number>({
      query: (title) => address('/noise', { title }),
      transformResponse: through(noiseRulesSchema),
      providesTags: ['noise'],
    }),
    saveNoiseRules: build.mutation<NoiseRule[], { title: number; rules: NoiseRule[] }>({
      query: (body) => ({ url: '/noise', method: 'PUT', body }),
      transformResponse: through(noiseRulesSchema),
      invalidatesTags: ['noise', 'findings', 'news'],
    }),
    tryNoise: build.query<NoiseTrial, SpanKey & { test: NoiseTest }>({
      query: (body) => ({ url: '/noise/try', method: 'POST', body }),
      transformResponse: through(noiseTrialSchema),
      providesTags: ['findings'],
    }),
  }),
});
