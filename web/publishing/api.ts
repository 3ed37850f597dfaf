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
  type EntryInput,
  type EntryPage,
  type EntryQuery,
  type EntryRemark,
  type Inbox,
  type SiteSettings,
} from '../../contract/catalogue.ts';
import {
  noteRemarksSchema,
  noteRevisionsSchema,
  noteRunSchema,
  noteRunsSchema,
  noteSchema,
  noteStepsSchema,
  type Note,
  type NoteRemark,
  type NoteRevisions,
  type NoteRun,
  type NoteStep,
} from '../../contract/notes.ts';
import { address, api, through } from '../ui/api.ts';

/** The note on an asset. */
export type AtNote = {
  channel: number;
  path: string;
};

export const {
  useNoteQuery,
  useSaveNoteMutation,
  useLazyProposedStepsQuery,
  useNoteRemarksQuery,
  useNoteRevisionsQuery,
  useLastNoteRunQuery,
  useRunNoteMutation,
  useEntriesQuery,
  useEntryQuery,
  useInboxQuery,
  useCreateEntryMutation,
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
    note: build.query<Note, AtNote>({
      query: (where) => address('/notes', where),
      transformResponse: through(noteSchema),
      providesTags: ['note'],
    }),
    saveNote: build.mutation<Note, AtNote & Pick<Note, 'body' | 'steps' | 'revision'>>({
      query: (body) => ({ url: '/notes', method: 'PUT', body }),
      transformResponse: through(noteSchema),
      invalidatesTags: (_, error) => (error ? [] : ['note', 'findings', 'entries']),
    }),
    proposedSteps: build.query<NoteStep[], AtNote & { build: string; query: string }>({
      query: (where) => address('/notes/proposed', where),
      transformResponse: through(noteStepsSchema),
    }),
    noteRemarks: build.query<NoteRemark[], AtNote>({
      query: (where) => address('/notes/remarks', where),
      transformResponse: through(noteRemarksSchema),
      providesTags: ['note'],
    }),
    noteRevisions: build.query<NoteRevisions, AtNote>({
      query: (where) => address('/notes/revisions', where),
      transformResponse: through(noteRevisionsSchema),
      providesTags: ['note'],
    }),
    lastNoteRun: build.query<NoteRun | null, AtNote>({
      query: (where) => address('/notes/runs', where),
      transformResponse: (answer) => noteRunsSchema.parse(answer)[0] ?? null,
      providesTags: ['note runs'],
    }),
    runNote: build.mutation<NoteRun, AtNote & { build: string }>({
      query: (body) => ({ url: '/notes/runs', method: 'POST', body }),
      transformResponse: through(noteRunSchema),
      invalidatesTags: ['note runs', 'haul runs'],
    }),
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
    createEntry: build.mutation<Entry, EntryInput>({
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
