import { spriteTablesSchema, type SpriteTables } from '../../../contract/sprites.ts';
import { address, api, through } from '../../ui/api.ts';

export const { useSpriteTablesQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    /** Tables that cut a picture into frames. */
    spriteTables: build.query<
      SpriteTables,
      { channel: number; build: string; path: string; width: number; height: number }
    >({
      query: (where) => address('/sprites', where),
      transformResponse: through(spriteTablesSchema),
      providesTags: ['assets'],
    }),
  }),
});
