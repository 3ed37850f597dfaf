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
      query: ({ path, ...where }) =>
        address('/folder', {
          ...where,
          // The outermost folder of an archive is called as the archive.
          path: folderOf(path).replace(/(!?)\/$/, ''),
          ...{ offset: 0, limit: mostBeside, sort: 'path', down: '0' },
        }),
      transformResponse: (answer) => through(folderSchema)(answer).assets,
      providesTags: ['assets'],
    }),
    scene: build.query<MapScene, Where>({
      query: (where) => address('/scene', { ...where }),
      transformResponse: through(mapSceneSchema),
      providesTags: ['assets'],
    }),
    envelope: build.query<number[], { hash: string; format: string }>({
      query: ({ hash, format }) => address(`/envelope/${hash}`, { format }),
      transformResponse: through(z.array(z.number())),
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
  useEnvelopeQuery,
  useAssetQuery,
  useLazyFolderQuery,
  useLazyAssetListQuery,
  useAssetsBesideQuery,
  useSceneQuery,
  useTextQuery,
  useShownTextQuery,
} = assetsApi;

/** Where the bytes of an asset lie, by path: what a model names beside it is found from there. */
export function fileAddress(channel: number, build: string, path: string): string {
  return `/api/files/${channel}/${encodeURIComponent(build)}/${path.split('/').map(encodeURIComponent).join('/')}`;
}

/** The same in a form that browsers show. */
export function shownAddress(channel: number, build: string, path: string): string {
  return fileAddress(channel, build, path).replace('/api/files/', '/api/shown/');
}

export function contentAddress(hash: string, format: string): string {
  return `/api/content/${hash}?format=${format}`;
}
