import * as z from 'zod';
import {
  sheetFilesSchema,
  sheetFitSchema,
  sheetLookSchema,
  sheetsStateSchema,
  type SheetFiles,
  type SheetFit,
  type SheetLook,
  type SheetsState,
} from '../../../contract/kept-sheets.ts';
import { api, through } from '../../ui/api.ts';

interface Where {
  channel: number;
  build: string;
}

export interface LookedAt extends Where {
  path: string;
  text: string;
  version?: string | undefined;
}

export const {
  useSheetsQuery,
  useSaveSheetsMutation,
  useSheetFilesQuery,
  useLazySheetFilesQuery,
  useSetFormatVersionMutation,
  useFitSheetMutation,
  useLookBySheetQuery,
  useShownBySheetQuery,
} = api.injectEndpoints({
  endpoints: (build) => ({
    sheets: build.query<SheetsState, number>({
      query: (titleId) => `/titles/${titleId}/format-sheets`,
      transformResponse: through(sheetsStateSchema),
      providesTags: ['format sheets'],
    }),
    saveSheets: build.mutation<
      SheetsState & { job: number },
      { titleId: number; sheets: { text: string }[]; revision: string }
    >({
      query: ({ titleId, ...state }) => ({
        url: `/titles/${titleId}/format-sheets`,
        method: 'PUT',
        body: state,
      }),
      transformResponse: through(sheetsStateSchema.extend({ job: z.number() })),
      invalidatesTags: ['format sheets', 'assets'],
    }),
    setFormatVersion: build.mutation<
      { job: number },
      { buildId: number; sheet: string; version: string | null }
    >({
      query: ({ buildId, ...body }) => ({ url: `/builds/${buildId}/format-version`, method: 'PUT', body }),
      transformResponse: through(z.object({ job: z.number() })),
      invalidatesTags: ['titles', 'assets'],
    }),
    sheetFiles: build.query<SheetFiles, Where & { patterns: string[] }>({
      query: (body) => ({ url: '/format-sheets/files', method: 'POST', body }),
      transformResponse: through(sheetFilesSchema),
    }),
    fitSheet: build.mutation<SheetFit, Where & { text: string; from: number }>({
      query: (body) => ({ url: '/format-sheets/fit', method: 'POST', body }),
      transformResponse: through(sheetFitSchema),
    }),
    lookBySheet: build.query<SheetLook, LookedAt>({
      query: (body) => ({ url: '/format-sheets/look', method: 'POST', body }),
      transformResponse: through(sheetLookSchema),
    }),
    /** Address of what is to be shown: it is dropped with the answer. */
    shownBySheet: build.query<string, LookedAt>({
      query: (body) => ({
        ...{ url: '/format-sheets/shown', method: 'POST', body },
        responseHandler: async (response) => {
          if (!response.ok) return (await response.json()) as unknown;
          return URL.createObjectURL(await response.blob());
        },
      }),
      keepUnusedDataFor: 5,
      async onCacheEntryAdded(_, { cacheDataLoaded, cacheEntryRemoved }) {
        const address = await cacheDataLoaded.then(
          ({ data }) => data,
          () => null,
        );
        await cacheEntryRemoved;
        if (address !== null) URL.revokeObjectURL(address);
      },
    }),
  }),
});
