import { folderSchema } from '../../../contract/assets.ts';
import { spokenSchema, type SpokenStrings } from '../../../contract/voices.ts';
import { address, api, through } from '../../ui/api.ts';

interface Where {
  channel: number;
  build: string;
}

/** More sounds of one folder are gone through in the library. */
const mostBeside = 500;

export const { useSoundsBesideQuery, useSpokenQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    soundsBeside: build.query<{ path: string; seconds: number | null }[], Where & { folder: string }>({
      query: ({ folder, ...where }) =>
        address('/folder', { ...where, path: folder, offset: 0, limit: mostBeside, sort: 'path', down: '0' }),
      transformResponse: (answer) =>
        through(folderSchema)(answer)
          .assets.filter(({ kind }) => kind === 'sound')
          .map(({ path, figures }) => ({ path, seconds: figures.seconds ?? null })),
      providesTags: ['assets'],
    }),
    spoken: build.query<SpokenStrings, Where & { path: string }>({
      query: (where) => address('/spoken', { ...where }),
      transformResponse: through(spokenSchema),
      providesTags: ['assets'],
    }),
  }),
});
