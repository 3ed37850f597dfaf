import { Hono } from 'hono';
import {
  noteQuerySchema,
  noteRequestSchema,
  noteRunRequestSchema,
  proposalQuerySchema,
} from '../../../contract/notes.ts';
import type { HaulContext } from '../../hauls/begin-haul.ts';
import { personOf } from '../../people/person.ts';
import { readBody, readNumber, readQuery } from '../../platform/http/read-request.ts';
import { remarksOn } from './note-remarks.ts';
import { findNoteRun, lastNoteRun, runNote } from './note-runs.ts';
import { findNote, listNotes, listRevisions, saveNote } from './notes.ts';
import { proposeSteps } from './propose-steps.ts';

/** How assets were taken out, and doing it again. */
export function noteRoutes(services: HaulContext): Hono {
  const { pool } = services;
  const routes = new Hono();

  routes.get('/notes', async (context) => {
    const { channel, path } = readQuery(context, noteQuerySchema);
    return context.json(await findNote(pool, channel, path));
  });
  routes.put('/notes', async (context) =>
    context.json(await saveNote(pool, await readBody(context, noteRequestSchema), personOf(context))),
  );
  routes.get('/notes/all', async (context) =>
    context.json(await listNotes(pool, readQuery(context, noteQuerySchema.pick({ channel: true })).channel)),
  );
  routes.get('/notes/revisions', async (context) => {
    const { channel, path } = readQuery(context, noteQuerySchema);
    return context.json(await listRevisions(pool, channel, path));
  });
  routes.get('/notes/proposed', async (context) => {
    const { channel, path, build, query } = readQuery(context, proposalQuerySchema);
    return context.json(await proposeSteps(services, channel, build, path, query));
  });
  routes.get('/notes/remarks', async (context) => {
    const { channel, path } = readQuery(context, noteQuerySchema);
    return context.json(await remarksOn(services, channel, path, await findNote(pool, channel, path)));
  });
  routes.get('/notes/runs', async (context) => {
    const { channel, path } = readQuery(context, noteQuerySchema);
    const run = await lastNoteRun(services, channel, path);
    return context.json(run ? [run] : []);
  });
  routes.post('/notes/runs', async (context) =>
    context.json(
      await runNote(services, await readBody(context, noteRunRequestSchema), personOf(context)),
      201,
    ),
  );
  routes.get('/notes/runs/:id{[0-9]+}', async (context) =>
    context.json(await findNoteRun(services, readNumber(context, 'id'))),
  );
  return routes;
}
