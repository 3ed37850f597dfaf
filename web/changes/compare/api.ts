import { comparedStatesSchema, type ComparedStates } from '../../../contract/assets.ts';
import { address, api, through } from '../../ui/api.ts';

export interface StatesQuery {
  channel: number;
  oldBuild: string;
  oldPath: string;
  newBuild: string;
  newPath: string;
}

export const { useComparedQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    compared: build.query<ComparedStates, StatesQuery>({
      query: (states) => address('/compared', { ...states }),
      transformResponse: through(comparedStatesSchema),
      providesTags: ['assets'],
    }),
  }),
});
