import type { MiddlewareHandler } from 'hono';

/**
 * Lets only this machine's own pages speak to the server: a request whose Host is not a loopback name with the
 * server's port (a foreign name that was made to point here), or whose Origin is another page's, is refused.
 */
export function onlyOwnPages(port: number): MiddlewareHandler {
  const hosts = new Set(['127.0.0.1', 'localhost', '[::1]'].map((name) => `${name}:${port}`));
  return async (context, next) => {
    const host = context.req.header('host') ?? '';
    if (!hosts.has(host.toLowerCase()))
      return context.json({ error: 'This server answers on its own address only.' }, 421);
    const origin = context.req.header('origin');
    const isForeign = origin !== undefined && origin.toLowerCase() !== `http://${host.toLowerCase()}`;
    const isCrossSite = ['cross-site', 'same-site'].includes(context.req.header('sec-fetch-site') ?? '');
    const isWrite = !['GET', 'HEAD'].includes(context.req.method);
    if (isForeign || (isCrossSite && (isWrite || context.req.path.startsWith('/api/')))) {
      return context.json({ error: 'Requests of other pages are refused.' }, 403);
    }
    await next();
    context.header('X-Content-Type-Options', 'nosniff');
    context.header('Referrer-Policy', 'no-referrer');
    context.header('Cross-Origin-Resource-Policy', 'same-origin');
  };
}
