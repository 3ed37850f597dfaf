import { startedEntriesSchema, type StartedEntries } from '../../contract/started-entries.ts';
import { api, through } from '../ui/api.ts';

/** Apart from the rest of the catalogue: the findings, which are loaded first of all, start entries and need nothing else of it. */
export const { useStartEntriesMutation } = api.injectEndpoints({
  endpoints: (build) => ({
    startEntries: build.mutation<StartedEntries, { channel: number; build: string; paths: string[] }>({
      query: (body) => ({ url: '/entries/started', method: 'POST', body }),
      transformResponse: through(startedEntriesSchema),
      invalidatesTags: ['entries'],
    }),
  }),
});
