import { createApi, fetchBaseQuery, type FetchBaseQueryError } from '@reduxjs/toolkit/query/react';
import type { SerializedError } from '@reduxjs/toolkit';
import type * as z from 'zod';
import { failureSchema } from '../../contract/failure.ts';

const send = fetchBaseQuery({
  baseUrl: '/api',
  // What others changed after this is not overwritten unseen.
  prepareHeaders: (headers, { getState }) => {
    const { seen } = (getState() as { history: { seen: number } }).history;
    if (seen > 0) headers.set('x-worvel-seen', String(seen));
  },
});

/** Requests that stand in this one's way: who somebody is must be known before what they say. */
let held: Promise<unknown> = Promise.resolve();
export function holdRequests(until: Promise<unknown>): void {
  held = until.catch(() => undefined);
}

/** All that the interface asks the server for. Features add their own questions to it. */
export const api = createApi({
  reducerPath: 'api',
  baseQuery: async (request: Parameters<typeof send>[0], context, options) => {
    if (context.endpoint !== 'rename') await held;
    return send(request, context, options);
  },
  tagTypes: [
    'titles',
    'findings',
    'note',
    'note runs',
    'entries',
    'remarks on entries',
    'editions',
    'assets',
    'keyring',
    'sizes',
    'followers',
    'uploads',
    'names',
    'links',
    'bookmarks',
    'haul',
    'haul runs',
    'recipes',
    'format sheets',
    'arrangements',
    'textures',
    'remarks',
    'noise',
    'news',
    'history',
  ],
  endpoints: () => ({}),
});

/** Passes an answer through its schema, once, at the border. */
export function through<Schema extends z.ZodType>(schema: Schema): (answer: unknown) => z.infer<Schema> {
  return (answer) => schema.parse(answer);
}

/** What went wrong with a question, in a sentence. */
export function failureText(error: FetchBaseQueryError | SerializedError | undefined): string {
  if (!error) return '';
  if ('status' in error) {
    const known = failureSchema.safeParse(error.data);
    if (known.success) return known.data.error;
    if (error.status === 'FETCH_ERROR') return 'The server does not answer. Is it still running?';
    return `The server answered with ${error.status}.`;
  }
  return error.message ?? 'Something went wrong.';
}

/** An address below `/api` with its query; what is undefined is left out. */
export function address(path: string, query: Record<string, string | number | undefined>): string {
  const parameters = new URLSearchParams();
  for (const [name, value] of Object.entries(query))
    if (value !== undefined) parameters.set(name, String(value));
  return `${path}?${parameters}`;
}
