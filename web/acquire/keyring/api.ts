import {
  keyAddedSchema,
  keyringSchema,
  type KeyAdded,
  type KeyRequest,
  type Keyring,
} from '../../../contract/keyring.ts';
import { jobSchema, type Job } from '../../../contract/work.ts';
import { api, through } from '../../ui/api.ts';

export const { useKeyringQuery, useAddKeyMutation, useRemoveKeyMutation, useUnlockMutation } =
  api.injectEndpoints({
    endpoints: (build) => ({
      keyring: build.query<Keyring, void>({
        query: () => '/keyring',
        transformResponse: through(keyringSchema),
        providesTags: ['keyring'],
      }),
      addKey: build.mutation<KeyAdded, KeyRequest>({
        query: (body) => ({ url: '/keyring', method: 'POST', body }),
        transformResponse: through(keyAddedSchema),
        invalidatesTags: ['keyring'],
      }),
      removeKey: build.mutation<unknown, number>({
        query: (id) => ({ url: `/keyring/${id}`, method: 'DELETE' }),
        invalidatesTags: ['keyring'],
      }),
      unlock: build.mutation<Job, number>({
        query: (id) => ({ url: `/builds/${id}/unlock`, method: 'POST' }),
        transformResponse: through(jobSchema),
      }),
    }),
  });
