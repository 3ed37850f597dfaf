import type { Context } from 'hono';
import { getCookie, setCookie } from 'hono/cookie';
import { personSchema } from '../../contract/history.ts';
import { personCookieName } from './person-cookie.ts';
import type { Author } from './history/change-log.ts';

const yearSeconds = 365 * 24 * 3600;
/** The newest change that a window has seen: nothing newer is overwritten for it. */
export const seenHeader = 'x-worvel-seen';

/** Who sends a request: the name that they gave, or an empty one where they never said. */
export function personOf(context: Context): string {
  return personSchema.safeParse({ name: getCookie(context, personCookieName) }).data?.name ?? '';
}

/** Who sends a request, and what they have seen. The one place that says who did something. */
export function authorOf(context: Context): Author {
  const seen = context.req.header(seenHeader);
  return {
    by: personOf(context),
    seen: seen !== undefined && /^\d{1,15}$/.test(seen) ? Number(seen) : null,
  };
}

/** Remembers in this browser who sends requests. */
export function rememberPerson(context: Context, name: string): void {
  setCookie(context, personCookieName, name, {
    path: '/',
    httpOnly: true,
    sameSite: 'Strict',
    maxAge: yearSeconds,
  });
}
