import * as z from 'zod';
import {
  bookmarkSchema,
  collectedSchema,
  pathListSchema,
  type Bookmark,
  type Collect,
} from '../../contract/collecting.ts';
import { familyListSchema, type FamilyList } from '../../contract/families.ts';
import { address, api, through } from '../ui/api.ts';

export interface PathsRequest {
  channel: number;
  build: string;
  text?: string;
  kind?: string;
  folder?: string;
}

export const {
  useLazyPathsQuery,
  useFamiliesQuery,
  useBookmarksQuery,
  useAddBookmarkMutation,
  useDropBookmarkMutation,
  useCollectMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    paths: build.query<z.infer<typeof pathListSchema>, PathsRequest>({
      query: (asked) => address('/paths', { ...asked }),
      transformResponse: through(pathListSchema),
    }),
    families: build.query<
      FamilyList,
      { channel: number; build: string; text: string; offset: number; limit: number }
    >({
      query: (asked) => address('/families', asked),
      transformResponse: through(familyListSchema),
      providesTags: ['names'],
    }),
    bookmarks: build.query<Bookmark[], number>({
      query: (channel) => address('/bookmarks', { channel }),
      transformResponse: through(z.array(bookmarkSchema)),
      providesTags: ['bookmarks'],
    }),
    addBookmark: build.mutation<Bookmark, { channel: number; name: string; place: string }>({
      query: (body) => ({ url: '/bookmarks', method: 'POST', body }),
      invalidatesTags: ['bookmarks'],
    }),
    dropBookmark: build.mutation<undefined, number>({
      query: (id) => ({ url: `/bookmarks/${id}`, method: 'DELETE' }),
      invalidatesTags: ['bookmarks'],
    }),
    collect: build.mutation<z.infer<typeof collectedSchema>, Collect>({
      query: (body) => ({ url: '/hauls/collect', method: 'POST', body }),
      transformResponse: through(collectedSchema),
      invalidatesTags: ['haul'],
    }),
  }),
});
