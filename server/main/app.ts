import { serveStatic } from '@hono/node-server/serve-static';
import { Hono } from 'hono';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import * as z from 'zod';
import { QueryError } from '../../core/search/query.ts';
import { applicationRoot } from '../platform/application-root.ts';
import { arrangementRoutes } from '../library/arrangements/routes.ts';
import { assetRoutes } from '../library/assets/routes.ts';
import { bookmarkRoutes } from '../library/bookmarks/routes.ts';
import { clipRoutes } from '../library/clips/routes.ts';
import { comparisonRoutes } from '../changes/evidence/routes.ts';
import { newsRoutes } from '../changes/news/routes.ts';
import { noiseRoutes } from '../changes/noise/routes.ts';
import { passRoutes } from '../changes/pass/routes.ts';
import { buildRoutes } from '../ingest/routes.ts';
import { catalogueRoutes } from '../publishing/routes.ts';
import { familyRoutes } from '../library/families/routes.ts';
import { findingRoutes } from '../changes/findings/routes.ts';
import { haulRoutes } from '../hauls/routes.ts';
import { housekeepingRoutes } from '../maintenance/routes.ts';
import { keyringRoutes } from '../ingest/keys/routes.ts';
import { libraryRoutes } from '../library/routes.ts';
import { noteRoutes } from '../publishing/notes/routes.ts';
import { nameRoutes } from '../library/names/routes.ts';
import { ConflictError, NotFoundError, PlainError, messageOf } from '../platform/plain-error.ts';
import { formatRoutes } from '../library/formats/routes.ts';
import { recipeRoutes } from '../library/recipes/routes.ts';
import { referenceRoutes } from '../library/references/routes.ts';
import { filmRoutes } from '../library/films/routes.ts';
import { spriteRoutes } from '../library/sprites/routes.ts';
import { textureRoutes } from '../library/textures/routes.ts';
import { voiceRoutes } from '../library/voices/routes.ts';
import { waysInRoutes } from '../acquire/ways-in/routes.ts';
import { workRoutes } from '../jobs/routes.ts';
import { pageHeaders } from '../platform/http/guard.ts';
import { rememberAddress } from '../people/came-from.ts';
import { limitBodies } from '../platform/http/limit-bodies.ts';
import { eventRoutes } from './event-routes.ts';
import { historyRoutes } from './history-routes.ts';
import type { ServerContext } from './server-context.ts';

/** All addresses that the server answers to. */
export function createApp(context: ServerContext, report: (message: string) => void): Hono {
  const app = new Hono();
  app.onError((error, request) => {
    const status =
      error instanceof NotFoundError
        ? 404
        : error instanceof ConflictError
          ? 409
          : error instanceof PlainError || error instanceof z.ZodError || error instanceof QueryError
            ? 400
            : 500;
    if (status === 500) {
      // What the program itself got wrong is for its own log: it may name files of the server.
      report(`${request.req.method} ${request.req.path}: ${error.stack ?? messageOf(error)}`);
      return request.json({ error: 'Something went wrong in the server; its log says what.' }, status);
    }
    const message =
      error instanceof z.ZodError
        ? (error.issues[0]?.message ?? 'The request does not fit.')
        : messageOf(error);
    const where = error instanceof QueryError ? { at: error.at, length: error.length } : {};
    return request.json({ error: message, ...where }, status);
  });
  app.use('*', pageHeaders);
  app.use('/api/*', limitBodies);
  app.use('/api/*', rememberAddress);
  app.get('/api/health', (request) => request.json({ data: context.folder.root }));
  for (const routes of [
    buildRoutes,
    keyringRoutes,
    housekeepingRoutes,
    waysInRoutes,
    findingRoutes,
    comparisonRoutes,
    passRoutes,
    noiseRoutes,
    newsRoutes,
    assetRoutes,
    libraryRoutes,
    nameRoutes,
    referenceRoutes,
    recipeRoutes,
    formatRoutes,
    familyRoutes,
    clipRoutes,
    arrangementRoutes,
    textureRoutes,
    spriteRoutes,
    filmRoutes,
    voiceRoutes,
    bookmarkRoutes,
    haulRoutes,
    noteRoutes,
    catalogueRoutes,
    workRoutes,
    eventRoutes,
    historyRoutes,
  ])
    app.route('/api', routes(context));
  app.all('/api/*', (request) => request.json({ error: `There is nothing at ${request.req.path}.` }, 404));

  const web = join(applicationRoot, 'dist', 'web');
  app.use(
    '*',
    serveStatic({
      root: web,
      onFound: (path, request) => {
        const isNamedByContent = path.includes('/assets/');
        request.header(
          'Cache-Control',
          isNamedByContent ? 'public, max-age=31536000, immutable' : 'no-cache',
        );
      },
    }),
  );
  // Every other address is one of the interface's own views; a script of an earlier version is none.
  app.get('/assets/*', (request) => request.text('This file is of another version of Worvel.', 404));
  app.get('*', (request) => {
    request.header('Cache-Control', 'no-cache');
    return request.html(readFileSync(join(web, 'index.html'), 'utf8'));
  });
  return app;
}
