import { Hono } from 'hono';
import * as z from 'zod';
import {
  changeQuerySchema,
  personSchema,
  type ChangeSubject,
  type UndoOutcome,
} from '../../contract/history.ts';
import type { Pool } from '../platform/database/pool.ts';
import { readBody, readNumber, readQuery } from '../platform/http/read-request.ts';
import { readAudit } from './history/audit.ts';
import { listChanges, listItems } from './history/change-log.ts';
import { scopeOf } from './history/kept-items.ts';
import { personOf, rememberPerson } from './person.ts';

const auditQuery = z.object({
  after: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(1000).default(500),
});

/** Takes a change of a subject back; the features that keep the subjects hand these in. */
export type Undo = (changeId: number, by: string) => Promise<UndoOutcome>;

/** Who somebody is, and what everybody changed. */
export function peopleRoutes({ pool, undo }: { pool: Pool; undo: Record<ChangeSubject, Undo> }): Hono {
  const routes = new Hono();

  routes.get('/person', (context) => {
    // Whoever gave no name is a guest with a number: two people must be told apart.
    const name = personOf(context) || `guest ${100 + Math.floor(Math.random() * 900)}`;
    rememberPerson(context, name);
    return context.json({ name });
  });
  routes.put('/person', async (context) => {
    const { name } = await readBody(context, personSchema);
    rememberPerson(context, name);
    return context.json({ name });
  });

  routes.get('/changes', async (context) =>
    context.json(await listChanges(pool, readQuery(context, changeQuerySchema))),
  );
  routes.get('/changes/:id/items', async (context) =>
    context.json(await listItems(pool, readNumber(context, 'id'))),
  );
  routes.get('/titles/:id/audit', async (context) => {
    const { after, limit } = readQuery(context, auditQuery);
    return context.json(await readAudit(pool, readNumber(context, 'id'), after, limit));
  });
  routes.post('/changes/:id/undo', async (context) => {
    const id = readNumber(context, 'id');
    const { subject } = await scopeOf(pool, id);
    return context.json(await undo[subject](id, personOf(context)));
  });
  return routes;
}
