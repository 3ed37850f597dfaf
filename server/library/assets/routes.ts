import type { Library } from '../library.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import type { ContentStore } from '../../store/content-store.ts';
import type { DataFolder } from '../../platform/data-folder.ts';
import type { Pool } from '../../platform/database/pool.ts';
import { Hono, type Context } from 'hono';
import { stream } from 'hono/streaming';
import { Readable } from 'node:stream';
import { promisify } from 'node:util';
import { deflate } from 'node:zlib';
import parseRange from 'range-parser';
import * as z from 'zod';
import { hashSchema } from '../../../contract/kinds.ts';
import { formatOf, formats } from '../../../core/kinds/formats.ts';
import { decodeEnvelope } from '../../../core/kinds/sound/envelope.ts';
import { decodeText } from '../../../core/kinds/text/decode.ts';
import { findBuild } from '../../acquire/builds/builds.ts';
import { readQuery, readNumber, readRestOfPath } from '../../platform/http/read-request.ts';
import { mostPixelsSent } from '../../../core/kinds/picture/view/pixels-to-see.ts';
import { pixelsType } from '../../../core/kinds/picture/view/pixel-bytes.ts';
import { NotFoundError, PlainError } from '../../platform/plain-error.ts';
import { readLocal, streamLocal } from '../../store/local-content.ts';
import { ReadNow } from './read-now.ts';
import { descriptionsFor } from '../formats/descriptions.ts';
import { showAsset } from './show-asset.ts';
import { SmallPictures } from './small-pictures.ts';
import { findAsset, findAt } from './assets.ts';
import { withCosts } from './map-costs.ts';
import { factsKey, findFacts } from './facts.ts';

/** Not on the thread that answers others. */
const deflated = promisify<Uint8Array, { level: number }, Buffer>(deflate);

const where = z.object({ channel: z.coerce.number().int(), build: z.string() });
const whereAndPath = where.extend({ path: z.string().default('') });
/** What the parser of ranges says of what it cannot give. */
const [unsatisfiable, malformed] = [-1, -2];
const textLimitBytes = 1024 * 1024;
const contentQuery = z.object({ format: z.enum(formats.map(({ name }) => name)).default('binary') });

const imageQuery = z.object({
  level: z.coerce.number().int().min(0).max(31).default(0),
  layer: z.coerce.number().int().min(0).default(0),
  face: z.coerce.number().int().min(0).max(5).default(0),
  slice: z.coerce.number().int().min(0).default(0),
  frame: z.coerce.number().int().min(0).default(0),
});
const side = z.coerce.number().int().min(0).max(65_535);
const pixelsQuery = imageQuery.extend({
  left: side.default(0),
  top: side.default(0),
  width: side.max(mostPixelsSent).default(0),
  height: side.max(mostPixelsSent).default(0),
});

export function assetRoutes({
  pool,
  folder,
  store,
  readers,
  library,
}: {
  pool: Pool;
  folder: DataFolder;
  store: ContentStore;
  readers: OnDemandReaders;
  library: Library;
}): Hono {
  const routes = new Hono();
  const readNow = new ReadNow({ pool, folder, store, readers });
  const smallPictures = new SmallPictures(pool, store);

  routes.get('/asset', async (context) => {
    const { channel, build, path } = readQuery(context, whereAndPath);
    const placed = await findBuild(pool, channel, build);
    const findFile = library.fileFinder(placed);
    await readNow.ensure(placed, path, findFile);
    return context.json(await findAsset(pool, placed, path, findFile));
  });

  routes.get('/scene', async (context) => {
    const { channel, build, path } = readQuery(context, whereAndPath);
    const placed = await findBuild(pool, channel, build);
    const format = (await findAt(pool, placed, path))?.format ?? '';
    const described = (await descriptionsFor({ pool, folder }, placed, [format]))(path, format);
    return context.json(
      await withCosts(pool, await library.get('scene', channel, build, { path, described })),
    );
  });

  routes.get('/text/:hash', async (context) => {
    const content = await store.getLocal(hashSchema.parse(context.req.param('hash')));
    const bytes = await readLocal({ ...content, size: Math.min(content.size, textLimitBytes) });
    return context.json({ text: decodeText(bytes).text, truncated: content.size > textLimitBytes });
  });

  routes.get('/preview/:hash', async (context) => {
    const hash = hashSchema.parse(context.req.param('hash'));
    const { format } = readQuery(context, contentQuery);
    const preview = await smallPictures.hashOf(hash, format);
    if (!preview) throw new NotFoundError('There is no preview of this content.');
    // A preview hangs on the files that a model names too, so it is asked for again with its tag.
    const tag = `"${preview}"`;
    context.header('ETag', tag);
    context.header('Cache-Control', 'private, no-cache');
    if (context.req.header('if-none-match') === tag) return context.body(null, 304);
    const bytes = await smallPictures.read(preview);
    return context.body(new Uint8Array(bytes), 200, { 'Content-Type': 'image/webp' });
  });

  routes.get('/envelope/:hash', async (context) => {
    const hash = hashSchema.parse(context.req.param('hash'));
    const { format } = readQuery(context, contentQuery);
    const facts = (await findFacts(pool, [{ hash, format }])).get(factsKey(hash, format))?.facts;
    context.header('Cache-Control', 'private, max-age=86400');
    return context.json(facts?.kind === 'sound' ? decodeEnvelope(facts.envelope) : []);
  });

  /** @param isByHash what is asked for by hash never changes; what lies at a path may be another content tomorrow */
  const send = async (
    context: Context,
    hash: string,
    format: string,
    isByHash: boolean,
  ): Promise<Response> => {
    const tag = `"${hash}"`;
    context.header('ETag', tag);
    context.header('Cache-Control', isByHash ? 'private, max-age=31536000, immutable' : 'private, no-cache');
    if (context.req.header('if-none-match') === tag) return context.body(null, 304);
    const content = await store.getLocal(hash);
    const { size } = content;
    const asked = context.req.header('range');
    const ranges = asked === undefined ? malformed : parseRange(size, asked, { combine: true });
    if (ranges === unsatisfiable) return context.body(null, 416, { 'Content-Range': `bytes */${size}` });
    // One range is given as it was asked for; of several, or of what is no range of bytes, all (RFC 9110, 14.2).
    const range =
      typeof ranges === 'object' && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : null;
    const { start, end } = range ?? { start: 0, end: size - 1 };
    context.header('Content-Type', formatOf(format).mediaType);
    context.header('Content-Length', String(end - start + 1));
    context.header('Accept-Ranges', 'bytes');
    // Contents of a game are data and never a page: nothing in them may run.
    context.header('Content-Security-Policy', "sandbox; default-src 'none'");
    if (range) {
      context.status(206);
      context.header('Content-Range', `bytes ${start}-${end}/${size}`);
    }
    return stream(context, (out) =>
      out.pipe(Readable.toWeb(streamLocal(content, start, end)) as ReadableStream),
    );
  };

  routes.get('/content/:hash', async (context) => {
    const { format } = readQuery(context, contentQuery);
    return send(context, hashSchema.parse(context.req.param('hash')), format, true);
  });

  // By path, so that a model finds the files that it names beside it.
  routes.get('/files/:channel/:build/*', async (context) => {
    const path = readRestOfPath(context, 4);
    const build = await findBuild(pool, readNumber(context, 'channel'), context.req.param('build'));
    const asset = await findAt(pool, build, path);
    if (!asset?.hash) throw new NotFoundError(`The build ${build.label} has no asset at ${path}.`);
    return send(context, asset.hash, asset.format, false);
  });

  // The same in a form that browsers show: PNG, GLB or WAV.
  routes.get('/shown/:channel/:build/*', async (context) => {
    const path = readRestOfPath(context, 4);
    const build = await findBuild(pool, readNumber(context, 'channel'), context.req.param('build'));
    const asset = await findAt(pool, build, path);
    if (!asset?.hash) throw new NotFoundError(`The build ${build.label} has no asset at ${path}.`);
    const image = readQuery(context, imageQuery);
    const { mediaType, bytes } = await showAsset(
      {
        ...{ store, readers, findFile: library.fileFinder(build) },
        describe: await descriptionsFor({ pool, folder }, build, [asset.format]),
      },
      { path, format: asset.format, hash: asset.hash },
      image,
    );
    return context.body(new Uint8Array(bytes), 200, {
      'Content-Type': mediaType,
      'Cache-Control': 'private, no-cache',
    });
  });

  // The numbers of a picture as they are stored: of all of it, or of a part where a size is asked for.
  routes.get('/pixels/:channel/:build/*', async (context) => {
    const path = readRestOfPath(context, 4);
    const build = await findBuild(pool, readNumber(context, 'channel'), context.req.param('build'));
    const asset = await findAt(pool, build, path);
    if (!asset?.hash) throw new NotFoundError(`The build ${build.label} has no asset at ${path}.`);
    const { left, top, width, height, ...image } = readQuery(context, pixelsQuery);
    if (formatOf(asset.format).kind !== 'picture') throw new PlainError(`${path} is no picture.`);
    const { bytes } = await showAsset(
      {
        ...{ store, readers, findFile: library.fileFinder(build) },
        describe: await descriptionsFor({ pool, folder }, build, [asset.format]),
      },
      { path, format: asset.format, hash: asset.hash },
      { ...image, pixels: width > 0 && height > 0 ? { left, top, width, height } : null },
    );
    const packed = await deflated(bytes, { level: 1 });
    return context.body(new Uint8Array(packed), 200, {
      'Content-Type': pixelsType,
      'Content-Encoding': 'deflate',
      'Cache-Control': 'private, no-cache',
    });
  });

  return routes;
}
