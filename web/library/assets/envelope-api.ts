import * as z from 'zod';
import { address, api, through } from '../../ui/api.ts';

/** By itself: lists have the waveforms of sounds, and nothing else of an asset. */
export const { useEnvelopeQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    envelope: build.query<number[], { hash: string; format: string }>({
      query: ({ hash, format }) => address(`/envelope/${hash}`, { format }),
      transformResponse: through(z.array(z.number())),
    }),
  }),
});
