import { useSnackbar } from 'notistack';
import { useEffect } from 'react';
import {
  changeEventSchema,
  changeItemsSchema,
  changePageSchema,
  personSchema,
  undoOutcomeSchema,
  type ChangeItem,
  type ChangePage,
  type ChangeQuery,
  type ChangeSubject,
  type Person,
  type UndoOutcome,
} from '../../contract/history.ts';
import { address, api, holdRequests, through } from '../ui/api.ts';
import { eventStream } from '../ui/event-stream.ts';
import { changesSeen, store, useAppDispatch } from '../ui/store.ts';

const peopleApi = api.injectEndpoints({
  endpoints: (build) => ({
    person: build.query<Person, void>({
      query: () => '/person',
      transformResponse: through(personSchema),
    }),
    rename: build.mutation<Person, string>({
      query: (name) => ({ url: '/person', method: 'PUT', body: { name } }),
      transformResponse: through(personSchema),
      async onQueryStarted(_name, { dispatch, queryFulfilled }) {
        holdRequests(queryFulfilled);
        const { data } = await queryFulfilled.catch(() => ({ data: null }));
        if (data) void dispatch(peopleApi.util.upsertQueryData('person', undefined, data));
      },
    }),
    changes: build.query<ChangePage, ChangeQuery>({
      query: (query) => address('/changes', { ...query }),
      transformResponse: through(changePageSchema),
      providesTags: ['history'],
    }),
    changeItems: build.query<ChangeItem[], number>({
      query: (id) => `/changes/${id}/items`,
      transformResponse: through(changeItemsSchema),
    }),
    undoChange: build.mutation<UndoOutcome, { id: number; subject: ChangeSubject }>({
      query: ({ id }) => ({ url: `/changes/${id}/undo`, method: 'POST' }),
      transformResponse: through(undoOutcomeSchema),
      invalidatesTags: (_outcome, _error, { subject }) => [
        'history',
        ...shownIn[subject],
        ...(writtenIn[subject] ?? []),
      ],
    }),
  }),
});

export const { useRenameMutation, useChangesQuery, useChangeItemsQuery, useUndoChangeMutation } = peopleApi;
const { usePersonQuery } = peopleApi;

type Tag =
  | 'arrangements'
  | 'textures'
  | 'findings'
  | 'names'
  | 'links'
  | 'assets'
  | 'noise'
  | 'news'
  | 'recipes'
  | 'note'
  | 'editions'
  | 'keyring'
  | 'titles'
  | 'entries';

/** What is shown of the things of a subject. */
const shownIn: Record<ChangeSubject, Tag[]> = {
  marks: ['findings', 'news'],
  lexicon: ['names', 'links', 'assets', 'news'],
  links: ['links', 'assets'],
  families: ['assets', 'news'],
  'noise rules': ['findings', 'news'],
  recipes: ['assets'],
  'format sheets': ['assets'],
  arrangements: ['arrangements'],
  textures: ['textures'],
  notes: ['findings'],
  entries: ['assets'],
  deeds: ['editions', 'keyring', 'titles'],
};
const shownAnywhere = [...new Set(Object.values(shownIn).flat())];
/** Where they are written: what somebody is writing is not replaced under their hands, and is refused when they save it. */
const writtenIn: Partial<Record<ChangeSubject, Tag[]>> = {
  'noise rules': ['noise'],
  recipes: ['recipes'],
  notes: ['note'],
  entries: ['entries'],
};

/** Who uses this window: the name that they gave, or a guest with a number. Empty as long as the server has not said. */
export function usePerson(): string {
  return usePersonQuery().data?.name ?? '';
}

export function personName(): string {
  return peopleApi.endpoints.person.select()(store.getState()).data?.name ?? '';
}

/** Hears what others change: it is loaded again, and said in a sentence. */
export function useChangeEvents(): void {
  const dispatch = useAppDispatch();
  const { enqueueSnackbar } = useSnackbar();
  usePersonQuery();
  useEffect(
    () =>
      eventStream().listen('changes', (data) => {
        const { newest, change } = changeEventSchema.parse(data);
        const { seen } = store.getState().history;
        dispatch(changesSeen(newest));
        // Things went on while the stream was closed: nobody will tell them one by one any more.
        if (!change) {
          if (seen > 0 && newest > seen) dispatch(api.util.invalidateTags(['history', ...shownAnywhere]));
          return;
        }
        const { subject, what, doneBy } = change;
        if (doneBy === personName()) {
          dispatch(api.util.invalidateTags(['history']));
          return;
        }
        dispatch(api.util.invalidateTags(['history', ...shownIn[subject]]));
        enqueueSnackbar(`${doneBy || 'Somebody'}: ${what}`);
      }),
    [dispatch, enqueueSnackbar],
  );
}
