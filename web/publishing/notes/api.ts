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
} from '../../../contract/notes.ts';
import { address, api, through } from '../../ui/api.ts';

/** The note on an asset. */
export type AtNote = {
  channel: number;
  path: string;
};

/** Apart from what else is published: lists that only start an entry need nothing of it. */
export const {
  useNoteQuery,
  useSaveNoteMutation,
  useLazyProposedStepsQuery,
  useNoteRemarksQuery,
  useNoteRevisionsQuery,
  useLastNoteRunQuery,
  useRunNoteMutation,
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
  }),
});
