import type { MiddlewareHandler } from 'hono';
import { secureHeaders } from 'hono/secure-headers';

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
  };
}

const own = "'self'";

/**
 * What the application's own pages may do, and that no other page may frame them. WebAssembly decodes models and textures in
 * the page; styles are made by the interface's own library. Contents of a game have a stricter policy of their own.
 */
const applicationHeaders = secureHeaders({
  contentSecurityPolicy: {
    defaultSrc: [own],
    scriptSrc: [own, "'wasm-unsafe-eval'"],
    styleSrc: [own, "'unsafe-inline'"],
    imgSrc: [own, 'blob:', 'data:'],
    mediaSrc: [own, 'blob:'],
    connectSrc: [own, 'blob:', 'data:'],
    workerSrc: [own, 'blob:'],
    fontSrc: [own],
    objectSrc: ["'none'"],
    baseUri: ["'none'"],
    formAction: [own],
    frameAncestors: ["'none'"],
  },
  xFrameOptions: 'DENY',
  referrerPolicy: 'no-referrer',
  crossOriginResourcePolicy: 'same-origin',
  // It is served on loopback, without TLS.
  strictTransportSecurity: false,
});

export const pageHeaders: MiddlewareHandler = async (context, next) => {
  let ownPolicy: string | null = null;
  const result = await applicationHeaders(context, async () => {
    await next();
    ownPolicy = context.res.headers.get('Content-Security-Policy');
  });
  if (ownPolicy !== null) context.res.headers.set('Content-Security-Policy', ownPolicy);
  return result;
};
