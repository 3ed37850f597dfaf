import { Hono, type Context } from 'hono';
import { stream } from 'hono/streaming';
import * as z from 'zod';
import { hashSchema } from '../../../contract/kinds.ts';
import { filmFrame, isFilmFormat } from '../../decode/films/decode-film.ts';
import { readQuery } from '../../platform/http/read-request.ts';
import { PlainError } from '../../platform/plain-error.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { FilmSounds } from './film-sounds.ts';

const query = z.object({ format: z.string() });
const frameQuery = query.extend({
  at: z.coerce.number().min(0).max(1_000_000),
  width: z.coerce.number().int().min(16).max(1920),
});

/** Pictures and sound of films that a browser does not play. */
export function filmRoutes({ store }: { store: ContentStore }): Hono {
  const routes = new Hono();
  const sounds = new FilmSounds();
  const contentOf = async (context: Context, format: string) => {
    if (!isFilmFormat(format)) throw new PlainError(`${format} is no format of films.`);
    const hash = hashSchema.parse(context.req.param('hash'));
    return store.getLocal(hash);
  };
  const asFile = (context: Context, type: string): void => {
    context.header('Content-Type', type);
    context.header('Cache-Control', 'private, max-age=31536000, immutable');
    context.header('Content-Security-Policy', "sandbox; default-src 'none'");
  };

  routes.get('/films/:hash/frame', async (context) => {
    const { format, at, width } = readQuery(context, frameQuery);
    const content = await contentOf(context, format);
    const { signal } = context.req.raw;
    const frame = await filmFrame(content, format, { seconds: at, width, signal });
    asFile(context, 'image/jpeg');
    return context.body(new Uint8Array(frame));
  });

  routes.get('/films/:hash/sound', async (context) => {
    const { format } = readQuery(context, query);
    const left = new AbortController();
    context.req.raw.signal.addEventListener('abort', () => left.abort());
    const sound = sounds.listen(await contentOf(context, format), format, left.signal);
    // What comes first says whether there is any sound: after that nothing can be refused any more.
    const first = await sound.next();
    if (first.done) throw new PlainError('This film has no sound.');
    asFile(context, 'audio/ogg');
    return stream(context, async (out) => {
      out.onAbort(() => left.abort());
      await out.write(new Uint8Array(first.value));
      for await (const piece of sound) await out.write(new Uint8Array(piece));
    });
  });
  return routes;
}
