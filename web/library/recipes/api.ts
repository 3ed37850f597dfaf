import { z } from 'zod';
import { recipesSchema, trialSchema, type PlacementRecipe, type Trial } from '../../../contract/recipes.ts';
import { api, through } from '../../ui/api.ts';

export const { useRecipesQuery, useSaveRecipesMutation, useTryRecipeQuery } = api.injectEndpoints({
  endpoints: (build) => ({
    recipes: build.query<PlacementRecipe[], number>({
      query: (titleId) => `/titles/${titleId}/recipes`,
      transformResponse: through(recipesSchema),
      providesTags: ['recipes'],
    }),
    saveRecipes: build.mutation<
      { recipes: PlacementRecipe[]; job: number },
      { titleId: number; recipes: PlacementRecipe[] }
    >({
      query: ({ titleId, recipes }) => ({
        url: `/titles/${titleId}/recipes`,
        method: 'PUT',
        body: recipes,
      }),
      transformResponse: through(z.object({ recipes: recipesSchema, job: z.number() })),
      invalidatesTags: ['recipes', 'assets'],
    }),
    tryRecipe: build.query<Trial, { channel: number; build: string; recipe: PlacementRecipe; path: string }>({
      query: (body) => ({ url: '/recipes/try', method: 'POST', body }),
      transformResponse: through(trialSchema),
    }),
  }),
});
