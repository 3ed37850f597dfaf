/** The cookie that says who sends a request. */
export const personCookieName = 'worvel_person';

/** As a client that is no browser sends it. */
export function personCookie(name: string): string {
  return `${personCookieName}=${encodeURIComponent(name)}`;
}
