import { useEffect } from 'react';
import { jobSchema, jobsSchema, type Job } from '../../contract/work.ts';
import { api, through } from '../ui/api.ts';
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

/** Follows the server's stream of jobs; the browser reconnects by itself. A build that came in refreshes the rest. */
export function useWorkEvents(): void {
  const dispatch = useAppDispatch();
  useEffect(() => {
    const events = new EventSource('/api/work/events');
    events.addEventListener('jobs', (event: MessageEvent<string>) => {
      const jobs = jobsSchema.parse(JSON.parse(event.data));
      const { jobs: before, isKnown } = store.getState().work;
      const wasDone = new Set(before.filter(({ state }) => state === 'done').map(({ id }) => id));
      if (isKnown && jobs.some(({ id, state }) => state === 'done' && !wasDone.has(id))) {
        dispatch(
          api.util.invalidateTags([
            'titles',
            'findings',
            'assets',
            'entries',
            'keyring',
            'sizes',
            'followers',
          ]),
        );
      }
      dispatch(jobsTold(jobs));
    });
    events.addEventListener('error', () => dispatch(streamLost()));
    return () => events.close();
  }, [dispatch]);
}
