import * as z from 'zod';
import {
  entriesSchema,
  entrySchema,
  noteSchema,
  publishResultSchema,
  rightsRequestSchema,
  type Entry,
  type EntryDraft,
  type Note,
} from '../../contract/catalogue.ts';
import { address, api, through } from '../ui/api.ts';

export const {
  useNoteQuery,
  useSaveNoteMutation,
  useEntriesQuery,
  useCreateEntryMutation,
  useSaveEntryMutation,
  useRemoveEntryMutation,
  usePublishMutation,
  useSaveRightsMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    note: build.query<Note, { channel: number; path: string }>({
      query: (where) => address('/notes', where),
      transformResponse: through(noteSchema),
      providesTags: ['note'],
    }),
    saveNote: build.mutation<Note, { channel: number; path: string; body: string; revision: number }>({
      query: (body) => ({ url: '/notes', method: 'PUT', body }),
      transformResponse: through(noteSchema),
      invalidatesTags: (_, error) => (error ? [] : ['note', 'findings', 'entries']),
    }),
    entries: build.query<Entry[], number>({
      query: (channel) => address('/entries', { channel }),
      transformResponse: through(entriesSchema),
      providesTags: ['entries'],
    }),
    createEntry: build.mutation<Entry, EntryDraft>({
      query: (body) => ({ url: '/entries', method: 'POST', body }),
      transformResponse: through(entrySchema),
      invalidatesTags: ['entries'],
    }),
    saveEntry: build.mutation<Entry, EntryDraft & { id: number; revision: number }>({
      query: ({ id, ...body }) => ({ url: `/entries/${id}`, method: 'PUT', body }),
      transformResponse: through(entrySchema),
      invalidatesTags: (_, error) => (error ? [] : ['entries']),
    }),
    removeEntry: build.mutation<null, number>({
      query: (id) => ({ url: `/entries/${id}`, method: 'DELETE' }),
      transformResponse: through(z.null()),
      invalidatesTags: ['entries'],
    }),
    publish: build.mutation<z.infer<typeof publishResultSchema>, number>({
      query: (title) => ({ url: `/titles/${title}/publish`, method: 'POST' }),
      transformResponse: through(publishResultSchema),
    }),
    saveRights: build.mutation<{ rights: string }, { title: number; rights: string }>({
      query: ({ title, rights }) => ({ url: `/titles/${title}/rights`, method: 'PUT', body: { rights } }),
      transformResponse: through(rightsRequestSchema),
      invalidatesTags: ['titles'],
    }),
  }),
});
