import {
  assetListSchema,
  assetSchema,
  folderSchema,
  mapSceneSchema,
  textPageSchema,
  type Asset,
  type Folder,
  type MapScene,
} from '../../contract/assets.ts';
import * as z from 'zod';
import { address, api, through } from '../ui/api.ts';
import { folderOf } from '../ui/path-text.tsx';
import { shownAddress } from './asset-addresses.ts';

interface Where {
  channel: number;
  build: string;
  path: string;
}

/** Larger folders are gone through in the library. */
const mostBeside = 500;
/** Longer tables are cut. */
const mostShownLetters = 4 * 1024 * 1024;

interface Page {
  offset: number;
  limit: number;
  sort: string;
  down: '0' | '1';
}

export const assetsApi = api.injectEndpoints({
  endpoints: (build) => ({
    asset: build.query<Asset, Where>({
      query: (where) => address('/asset', { ...where }),
      transformResponse: through(assetSchema),
      providesTags: ['assets'],
    }),
    folder: build.query<Folder, Where & Page>({
      query: (where) => address('/folder', { ...where }),
      transformResponse: through(folderSchema),
      providesTags: ['assets'],
    }),
    assetList: build.query<
      z.infer<typeof assetListSchema>,
      { channel: number; build: string; text: string; kind: string } & Page
    >({
      query: (where) => address('/assets', { ...where }),
      transformResponse: through(assetListSchema),
      providesTags: ['assets'],
    }),
    /** What lies in the folder of an asset, in the order of paths. */
    assetsBeside: build.query<Folder['assets'], Where>({
      // One answer for all that lies in a folder: whoever goes through it asks once.
      serializeQueryArgs: ({ queryArgs: { path, ...where }, endpointName }) =>
        `${endpointName} ${JSON.stringify({ ...where, path: folderBeside(path) })}`,
      query: ({ path, ...where }) =>
        address('/folder', {
          ...where,
          path: folderBeside(path),
          ...{ offset: 0, limit: mostBeside, sort: 'path', down: '0' },
        }),
      transformResponse: (answer) => through(folderSchema)(answer).assets,
      providesTags: ['assets'],
    }),
    scene: build.query<MapScene, Where>({
      query: (where) => address('/scene', { ...where }),
      // Frozen already, and not compared: the store would go through each of tens of thousands of placements.
      transformResponse: (answer) => Object.freeze(through(mapSceneSchema)(answer)),
      structuralSharing: false,
      providesTags: ['assets'],
    }),
    /** A table that a sheet reads, as CSV. */
    shownText: build.query<z.infer<typeof textPageSchema>, Where>({
      query: ({ channel, build: label, path }) => ({
        url: shownAddress(channel, label, path).replace('/api', ''),
        responseHandler: async (response) =>
          response.ok
            ? { text: (await response.text()).slice(0, mostShownLetters), truncated: false }
            : ((await response.json()) as unknown),
      }),
      transformResponse: through(textPageSchema),
    }),
    text: build.query<z.infer<typeof textPageSchema>, string>({
      query: (hash) => `/text/${hash}`,
      transformResponse: through(textPageSchema),
    }),
  }),
});

export const {
  useAssetQuery,
  useLazyFolderQuery,
  useLazyAssetListQuery,
  useAssetsBesideQuery,
  useSceneQuery,
  useTextQuery,
  useShownTextQuery,
} = assetsApi;

/** The folder that an asset lies in; the outermost one of an archive is called as the archive. */
function folderBeside(path: string): string {
  return folderOf(path).replace(/(!?)\/$/, '');
}
