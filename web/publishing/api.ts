import * as z from 'zod';
import {
  editionProblemsSchema,
  editionsSchema,
  entryPageSchema,
  inboxSchema,
  entryRemarksSchema,
  entrySchema,
  rightsRequestSchema,
  siteSettingsSchema,
  startedEditionSchema,
  type Edition,
  type EditionProblem,
  type Entry,
  type EntryDraft,
  type EntryPage,
  type EntryQuery,
  type EntryRemark,
  type Inbox,
  type SiteSettings,
} from '../../contract/catalogue.ts';
import { address, api, through } from '../ui/api.ts';

export const {
  useEntriesQuery,
  useEntryQuery,
  useInboxQuery,
  useSaveEntryMutation,
  useRemoveEntryMutation,
  useEntryRemarksQuery,
  useAddEntryRemarkMutation,
  useSettleEntryRemarkMutation,
  usePublishMutation,
  useEditionsQuery,
  useEditionProblemsQuery,
  useSiteQuery,
  useSaveSiteMutation,
  useSaveRightsMutation,
} = api.injectEndpoints({
  endpoints: (build) => ({
    entries: build.query<EntryPage, Partial<EntryQuery> & { channel: number }>({
      query: (asked) => address('/entries', asked),
      transformResponse: through(entryPageSchema),
      providesTags: ['entries'],
    }),
    entry: build.query<Entry, string>({
      query: (id) => `/entries/${encodeURIComponent(id)}`,
      transformResponse: through(entrySchema),
      providesTags: ['entries'],
    }),
    inbox: build.query<Inbox, { channel: number; from: string; to: string }>({
      query: (span) => address('/inbox', span),
      transformResponse: through(inboxSchema),
      providesTags: ['entries'],
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
    entryRemarks: build.query<EntryRemark[], number>({
      query: (id) => `/entries/${id}/remarks`,
      transformResponse: through(entryRemarksSchema),
      providesTags: ['remarks on entries'],
    }),
    addEntryRemark: build.mutation<EntryRemark[], { id: number; field: string; text: string }>({
      query: ({ id, ...body }) => ({ url: `/entries/${id}/remarks`, method: 'POST', body }),
      transformResponse: through(entryRemarksSchema),
      invalidatesTags: ['remarks on entries'],
    }),
    settleEntryRemark: build.mutation<EntryRemark[], { id: number; remark: number }>({
      query: ({ id, remark }) => ({ url: `/entries/${id}/remarks/${remark}/settle`, method: 'POST' }),
      transformResponse: through(entryRemarksSchema),
      invalidatesTags: ['remarks on entries'],
    }),
    publish: build.mutation<{ job: number }, { title: number; backTo?: number; isPreview?: boolean }>({
      query: ({ title, ...body }) => ({ url: `/titles/${title}/publish`, method: 'POST', body }),
      transformResponse: through(startedEditionSchema),
    }),
    editions: build.query<Edition[], number>({
      query: (title) => `/titles/${title}/editions`,
      transformResponse: through(editionsSchema),
      providesTags: ['editions'],
    }),
    editionProblems: build.query<EditionProblem[], number>({
      query: (title) => `/titles/${title}/problems`,
      transformResponse: through(editionProblemsSchema),
      providesTags: ['entries'],
    }),
    site: build.query<SiteSettings, number>({
      query: (title) => `/titles/${title}/site`,
      transformResponse: through(siteSettingsSchema),
      providesTags: ['editions'],
    }),
    saveSite: build.mutation<SiteSettings, { title: number; site: SiteSettings }>({
      query: ({ title, site }) => ({ url: `/titles/${title}/site`, method: 'PUT', body: site }),
      transformResponse: through(siteSettingsSchema),
      invalidatesTags: ['editions'],
    }),
    saveRights: build.mutation<{ rights: string }, { title: number; rights: string }>({
      query: ({ title, rights }) => ({ url: `/titles/${title}/rights`, method: 'PUT', body: { rights } }),
      transformResponse: through(rightsRequestSchema),
      invalidatesTags: ['titles'],
    }),
  }),
});
