import type { MessagePort } from 'node:worker_threads';
import { compareContents } from '../../core/kinds/compare.ts';
import { isReadInParts, largestBytes, readContent, showContent } from '../../core/kinds/read.ts';
import { PlainError, messageOf } from '../platform/plain-error.ts';
import { startHash } from '../store/hash.ts';
import type { ContentPlace } from '../store/layout.ts';
import { ContentReader } from '../store/read-content.ts';
import { nothingRead, type Against, type FromReader, type ReadTask, type ToReader } from './messages.ts';
import { encodePreview, nodePlatform } from './platform.ts';

/**
 * Lets a thread read facts of contents, one at a time. It is ended from outside when a reader hangs.
 * @returns what hears the messages that are for the reader
 */
export function makeReader(port: MessagePort, store: string): (message: ToReader) => void {
  const tell = (message: FromReader): void => port.postMessage(message);
  const contents = new ContentReader(store);
  const calls = new Map<number, (place: ContentPlace | null) => void>();
  let work = Promise.resolve();
  let lastCall = 0;

  const resolve = async (id: number, reference: string, isOld: boolean): Promise<Uint8Array | null> => {
    const call = ++lastCall;
    const place = await new Promise<ContentPlace | null>((answer) => {
      calls.set(call, answer);
      tell({ type: 'resolve', call, id, reference, isOld });
    });
    return place ? contents.read(place) : null;
  };

  return (message) => {
    if (message.type === 'read') {
      // One at a time: whoever hangs is then known to be the first that was sent.
      work = work.then(async () =>
        tell(
          await read(contents, message.task, (reference, isOld = false) =>
            resolve(message.task.id, reference, isOld),
          ),
        ),
      );
    } else {
      calls.get(message.call)?.(message.place);
      calls.delete(message.call);
    }
  };
}

async function read(
  contents: ContentReader,
  task: ReadTask,
  resolve: (reference: string, isOld?: boolean) => Promise<Uint8Array | null>,
): Promise<FromReader> {
  try {
    const request = requestOf(contents, task, resolve);
    if (task.against) {
      const old = requestOf(contents, task.against, (reference) => resolve(reference, true));
      const { comparison, picture } = await compareContents(
        { format: task.against.format, request: old },
        { format: task.format, request },
      );
      const compared = { comparison, picture: picture ? await encodePreview(picture) : null };
      return { type: 'done', id: task.id, ...nothingRead, compared, reason: null };
    }
    if (task.shown)
      return {
        type: 'done',
        id: task.id,
        ...nothingRead,
        shown: await showContent(task.format, request, task.shown),
        reason: null,
      };
    const { facts, preview, decoded, signature, mentions, damage } = await readContent(task.format, request);
    return {
      type: 'done',
      id: task.id,
      facts,
      preview: preview ? await encodePreview(preview) : null,
      fingerprint: decoded ? hashOfPieces(decoded) : null,
      signature,
      mentions,
      shown: null,
      compared: null,
      reason: damage,
    };
  } catch (error) {
    return { type: 'done', id: task.id, ...nothingRead, reason: messageOf(error) };
  }
}

/** @throws PlainError for what is too large to be read */
function requestOf(
  contents: ContentReader,
  { place, format, path, recipe }: Against,
  resolve: (reference: string) => Promise<Uint8Array | null>,
) {
  const { size } = place;
  const isInParts = isReadInParts(format);
  if (size > largestBytes && !isInParts)
    throw new PlainError('it is larger than 1 GiB: its facts are not read');
  return {
    bytes: isInParts ? new Uint8Array(0) : contents.read(place),
    size,
    part: (start: number, end: number) => contents.read(place, start, end),
    path,
    platform: nodePlatform,
    recipe,
    resolve,
  };
}

function hashOfPieces(pieces: readonly Uint8Array[]): Uint8Array {
  const hash = startHash();
  for (const piece of pieces) hash.update(piece);
  return hash.digest();
}
