import { Hono } from 'hono';
import { streamSSE } from 'hono/streaming';
import * as z from 'zod';
import { spanSchema } from '../../contract/pass.ts';
import { findBuild } from '../acquire/builds/builds.ts';
import { PassEvents } from '../changes/pass/pass-events.ts';
import { JobEvents } from '../jobs/job-events.ts';
import { ChangeEvents } from '../people/history/change-events.ts';
import type { Pool } from '../platform/database/pool.ts';
import { readQuery } from '../platform/http/read-request.ts';

const beatMs = 15_000;
/** Who is further behind than this is let go: they connect again, and begin with what is there then. */
const mostWaiting = 2000;

const eventsQuery = z.union([
  spanSchema.extend({ since: z.coerce.number().int().min(0).optional() }),
  z.object({}),
]);

interface Message {
  event: 'jobs' | 'marks' | 'changes' | 'beat';
  data: string;
  id?: string;
}

/** One stream for a window: jobs, what others change, and the marks of the span that it shows. */
export function eventRoutes({ pool }: { pool: Pool }): Hono {
  const routes = new Hono();
  const jobs = new JobEvents(pool);
  const changes = new ChangeEvents(pool);
  const pass = new PassEvents(pool);

  routes.get('/events', async (context) => {
    const query = readQuery(context, eventsQuery);
    const span =
      'channel' in query
        ? {
            from: await findBuild(pool, query.channel, query.from),
            to: await findBuild(pool, query.channel, query.to),
            // Whoever reconnects is told what came after the last that it heard.
            since: Number(context.req.header('last-event-id') ?? query.since ?? NaN),
          }
        : null;
    return streamSSE(context, async (out) => {
      const waiting: Message[] = [];
      let wake: () => void = () => undefined;
      const post = (message: Message): void => {
        waiting.push(message);
        wake();
      };
      out.onAbort(() => wake());
      const leave = [
        jobs.listen((event) => post({ event: 'jobs', data: JSON.stringify(event) })),
        changes.listen((event) => post({ event: 'changes', data: JSON.stringify(event) })),
      ];
      try {
        if (span)
          leave.push(
            await pass.listen(span.from, span.to, Number.isNaN(span.since) ? null : span.since, (event) =>
              post({ event: 'marks', id: String(event.revision), data: JSON.stringify(event) }),
            ),
          );
        while (!out.aborted && !out.closed && waiting.length <= mostWaiting) {
          const message = waiting.shift();
          if (message) await out.writeSSE(message);
          else if (!(await isWoken((resume) => (wake = resume)))) post({ event: 'beat', data: '' });
        }
      } finally {
        for (const end of leave) end();
      }
    });
  });
  return routes;
}

/** Waits for something to come, for as long as a connection may be silent. */
async function isWoken(setWake: (resume: () => void) => void): Promise<boolean> {
  let timer: NodeJS.Timeout | undefined;
  const woken = await new Promise<boolean>((resolve) => {
    setWake(() => resolve(true));
    timer = setTimeout(() => resolve(false), beatMs);
  });
  clearTimeout(timer);
  return woken;
}
