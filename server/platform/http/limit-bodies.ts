import { bodyLimit } from 'hono/body-limit';
import type { MiddlewareHandler } from 'hono';
import { chunkBytes } from '../../../contract/ways-in.ts';

/** A list of 200,000 files to be uploaded, with long paths, is the largest that is ever sent. */
const largestBodyBytes = 64 * 1024 ** 2;
const jsonBodyBytes = 16 * 1024 ** 2;

const limits: [isFor: RegExp, bytes: number][] = [
  [/^\/api\/uploads\/[^/]+\/files\//, chunkBytes],
  [/^\/api\/uploads$/, largestBodyBytes],
];

/** Refuses bodies that are too large: by their own word at once, and else while they are read, before they lie in memory. */
export const limitBodies: MiddlewareHandler = (context, next) => {
  const bytes = limits.find(([isFor]) => isFor.test(context.req.path))?.[1] ?? jsonBodyBytes;
  return bodyLimit({
    maxSize: bytes,
    onError: (refused) =>
      refused.json(
        { error: `This request has more than the ${bytes.toLocaleString('en')} bytes that it may have.` },
        413,
      ),
  })(context, next);
};
