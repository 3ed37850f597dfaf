import * as z from 'zod';
import { arrangementSchema, type Arrangement } from '../../../contract/arrangements.ts';
import { fittingClipsSchema, type FittingClips } from '../../../contract/clips.ts';
import {
  textureSetsSchema,
  type askTextureSetsSchema,
  type SayTextures,
  type TextureSets,
} from '../../../contract/texture-sets.ts';
import { address, api, through } from '../../ui/api.ts';

const arrangementsSchema = z.array(arrangementSchema);

export const {
  useFittingClipsQuery,
  useArrangementsQuery,
  useKeepArrangementMutation,
  useDropArrangementMutation,
  useTextureSetsQuery,
  useSayTexturesMutation,
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
    textureSets: build.query<TextureSets, z.infer<typeof askTextureSetsSchema>>({
      query: (body) => ({ url: '/texture-sets', method: 'POST', body }),
      transformResponse: through(textureSetsSchema),
      providesTags: ['textures', 'names', 'links', 'assets'],
    }),
    sayTextures: build.mutation<unknown, SayTextures>({
      query: (body) => ({ url: '/texture-sets/say', method: 'POST', body }),
      invalidatesTags: ['textures'],
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
