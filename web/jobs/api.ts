import { useEffect } from 'react';
import { jobSchema, jobsEventSchema, type Job } from '../../contract/work.ts';
import { api, through } from '../ui/api.ts';
import { eventStream } from '../ui/event-stream.ts';
import { jobsTold, store, streamLost, useAppDispatch } from '../ui/store.ts';

export const { useHaltMutation, useResumeMutation, usePriorityMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    halt: build.mutation<Job, { id: number; how: 'stop' | 'pause' }>({
      query: ({ id, how }) => ({ url: `/work/${id}/${how}`, method: 'POST' }),
      transformResponse: through(jobSchema),
    }),
    priority: build.mutation<Job, { id: number; priority: number }>({
      query: ({ id, priority }) => ({ url: `/work/${id}/priority`, method: 'POST', body: { priority } }),
      transformResponse: through(jobSchema),
    }),
    resume: build.mutation<Job, number>({
      query: (id) => ({ url: `/work/${id}/resume`, method: 'POST' }),
      transformResponse: through(jobSchema),
    }),
  }),
});

/** While facts are read, views are refreshed so often. */
const refreshMs = 4000;

/** Hears of jobs. A build that came in, or whatever else was done, refreshes what was made of it. */
export function useWorkEvents(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const stream = eventStream();
    let refreshedAt = Date.now();
    const leave = [
      stream.listen('jobs', (data) => {
        const event = jobsEventSchema.parse(data);
        const { jobs: before, isKnown } = store.getState().work;
        const wasDone = new Set(before.filter(({ state }) => state === 'done').map(({ id }) => id));
        if (isKnown && event.jobs.some(({ id, state }) => state === 'done' && !wasDone.has(id))) {
          dispatch(
            api.util.invalidateTags([
              'titles',
              'findings',
              'assets',
              'entries',
              'keyring',
              'sizes',
              'followers',
              'haul runs',
              'note runs',
              'editions',
            ]),
          );
        }
        // What is looked at gets better while facts come in.
        const isReading = event.jobs.some(({ kind, state }) => kind === 'read' && state === 'running');
        if (isReading && Date.now() - refreshedAt > refreshMs) {
          refreshedAt = Date.now();
          dispatch(api.util.invalidateTags(['findings', 'assets']));
        }
        dispatch(jobsTold(event));
      }),
      stream.listenToLoss(() => dispatch(streamLost())),
    ];
    return () => leave.forEach((end) => end());
  }, [dispatch]);
}
