import { folderSchema } from '../../../contract/assets.ts';
import { address, api, through } from '../../ui/api.ts';

/** Assets of larger folders are gone through in the library. */
const mostBeside = 500;

export const { useFolderOfAssetQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    folderOfAsset: build.query<string[], { channel: number; build: string; folder: string }>({
      query: ({ folder, ...where }) =>
        address('/folder', { ...where, path: folder, offset: 0, limit: mostBeside, sort: 'path', down: '0' }),
      transformResponse: (answer) => through(folderSchema)(answer).assets.map(({ path }) => path),
      providesTags: ['assets'],
    }),
  }),
});
