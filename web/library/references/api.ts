import type * as z from 'zod';
import {
  acceptLinksSchema,
  missingLinksSchema,
  referencesSchema,
  unnamedSchema,
  type References,
} from '../../../contract/references.ts';
import { address, api, through } from '../../ui/api.ts';

interface OfBuild {
  channel: number;
  build: string;
}

export const { useReferencesQuery, useMissingLinksQuery, useUnnamedQuery, useAcceptLinksMutation } =
  api.injectEndpoints({
    endpoints: (build) => ({
      references: build.query<References, OfBuild & { path: string }>({
        query: (asked) => address('/references', { ...asked }),
        transformResponse: through(referencesSchema),
        providesTags: ['links', 'names'],
      }),
      missingLinks: build.query<
        z.infer<typeof missingLinksSchema>,
        OfBuild & { text: string; offset: number; limit: number }
      >({
        query: (asked) => address('/references/missing', { ...asked }),
        transformResponse: through(missingLinksSchema),
        providesTags: ['links'],
      }),
      unnamed: build.query<
        z.infer<typeof unnamedSchema>,
        OfBuild & { kind: string; offset: number; limit: number }
      >({
        query: (asked) => address('/references/unnamed', { ...asked }),
        transformResponse: through(unnamedSchema),
        providesTags: ['links'],
      }),
      acceptLinks: build.mutation<unknown, { channel: number } & z.input<typeof acceptLinksSchema>>({
        query: (body) => ({ url: '/references/accept', method: 'POST', body }),
        invalidatesTags: ['links', 'names', 'assets'],
      }),
    }),
  });
