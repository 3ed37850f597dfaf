import * as z from 'zod';
import {
  recipesStateSchema,
  trialSchema,
  type PlacementRecipe,
  type RecipesState,
  type Trial,
} from '../../../contract/recipes.ts';
import { api, through } from '../../ui/api.ts';

export const { useRecipesQuery, useSaveRecipesMutation, useTryRecipeQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    recipes: build.query<RecipesState, number>({
      query: (titleId) => `/titles/${titleId}/recipes`,
      transformResponse: through(recipesStateSchema),
      providesTags: ['recipes'],
    }),
    saveRecipes: build.mutation<RecipesState & { job: number }, RecipesState & { titleId: number }>({
      query: ({ titleId, ...state }) => ({
        url: `/titles/${titleId}/recipes`,
        method: 'PUT',
        body: state,
      }),
      transformResponse: through(recipesStateSchema.extend({ job: z.number() })),
      invalidatesTags: ['recipes', 'assets'],
    }),
    tryRecipe: build.query<Trial, { channel: number; build: string; recipe: PlacementRecipe; path: string }>({
      query: (body) => ({ url: '/recipes/try', method: 'POST', body }),
      transformResponse: through(trialSchema),
    }),
  }),
});
