import type { JobQueue } from '../../jobs/queue.ts';
import type { Library } from '../library.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono } from 'hono';
import * as z from 'zod';
import { nameOfTitle } from '../../acquire/builds/builds.ts';
import { placementRecipeSchema, recipesStateSchema } from '../../../contract/recipes.ts';
import { readBody, readNumber } from '../../platform/http/read-request.ts';
import { personOf } from '../../people/person.ts';
import { readRecipes, saveRecipes } from './recipes.ts';
import { addRecipesJob } from './recipes-job.ts';

export function recipeRoutes({
  pool,
  library,
  queue,
}: {
  pool: Pool;
  library: Library;
  queue: JobQueue;
}): Hono {
  const routes = new Hono();
  routes.get('/titles/:id/recipes', async (context) =>
    context.json(await readRecipes(pool, readNumber(context, 'id'))),
  );
  // All builds are looked through with them, in the queue.
  routes.put('/titles/:id/recipes', async (context) => {
    const titleId = readNumber(context, 'id');
    const state = await readBody(context, recipesStateSchema);
    const title = await nameOfTitle(pool, titleId);
    await saveRecipes(pool, titleId, state, personOf(context));
    const job = await addRecipesJob(pool, titleId, title);
    queue.look();
    return context.json({ ...(await readRecipes(pool, titleId)), job });
  });
  routes.post('/recipes/try', async (context) => {
    const { channel, build, recipe, path } = await readBody(
      context,
      z.object({
        channel: z.number().int(),
        build: z.string(),
        recipe: placementRecipeSchema,
        path: z.string().default(''),
      }),
    );
    return context.json(await library.get('tryRecipe', channel, build, { recipe, path }));
  });
  return routes;
}
