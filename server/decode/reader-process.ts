import { join } from 'node:path';
import { bySheet } from '../../core/formats/by-sheet.ts';
import { compareContents } from '../../core/kinds/compare.ts';
import { writeContent } from '../../core/kinds/write.ts';
import { isReadInParts, largestBytes, readContent, showContent } from '../../core/kinds/read.ts';
import { PlainError, messageOf } from '../platform/plain-error.ts';
import { startHash } from '../store/hash.ts';
import { LocalReader, type LocalContent } from '../store/local-content.ts';
import { filmSource } from './films/film-source.ts';
import {
  failedOutcome,
  type ContentToRead,
  type FromReader,
  type Operation,
  type Outcomes,
  type Side,
  type ToReader,
} from './operations.ts';
import { stage } from './stage-files.ts';
import { openedSheet } from './opened-sheets.ts';
import { encodePreview, nodePlatform } from './platform.ts';

/**
 * A process that reads, shows and compares contents, one at a time. It is killed from outside when it hangs or takes too
 * much memory, whatever it is in the middle of: native code too.
 */
if (!process.send) throw new Error('reader-process: not started by a pool of readers');
const post = (message: FromReader): void => void process.send?.(message);
const contents = new LocalReader();
const calls = new Map<number, (place: LocalContent | null) => void>();
let lastCall = 0;
let work = Promise.resolve();

process.on('message', (message: ToReader) => {
  if (message.type === 'run') {
    const { id, operation } = message;
    // One at a time: whoever hangs is then known to be the first that was sent.
    work = work.then(async () => post({ type: 'done', id, outcome: await carryOut(id, operation) }));
  } else {
    calls.get(message.call)?.(message.content);
    calls.delete(message.call);
  }
});
process.on('disconnect', () => process.exit());

async function carryOut(id: number, operation: Operation): Promise<Outcomes[keyof Outcomes]> {
  try {
    const { content } = operation;
    const request = requestOf(id, content, 'new');
    switch (operation.type) {
      case 'facts': {
        const read = await readContent(content.format, request);
        return {
          facts: read.facts,
          preview: read.preview ? await encodePreview(read.preview) : null,
          fingerprint: read.decoded ? hashOfPieces(read.decoded) : null,
          signature: read.signature,
          mentions: read.mentions,
          bones: read.bones,
          reason: read.damage,
        };
      }
      case 'show':
        return { shown: await showContent(content.format, request, operation.image), reason: null };
      case 'compare': {
        const { old } = operation;
        const { comparison, picture } = await compareContents(
          { format: old.format, request: requestOf(id, old, 'old') },
          { format: content.format, request },
        );
        return {
          compared: { comparison, picture: picture ? await encodePreview(picture) : null },
          reason: null,
        };
      }
      case 'write': {
        const { writing, folder, prefix } = operation;
        const { files, ...rest } = await writeContent(content.format, request, writing);
        return { written: { files: stage(files, join(folder, prefix)), ...rest }, reason: null };
      }
    }
  } catch (error) {
    return failedOutcome[operation.type](messageOf(error));
  }
}

/** @throws PlainError for what is too large to be read */
function requestOf(id: number, { content, format, path, recipe, sheet }: ContentToRead, side: Side) {
  const { size } = content;
  const isInParts = isReadInParts(format);
  if (size > largestBytes && !isInParts)
    throw new PlainError('it is larger than 1 GiB: its facts are not read');
  const bytes = isInParts ? new Uint8Array(0) : contents.read(content);
  const resolve = async (reference: string): Promise<Uint8Array | null> => {
    const found = await findResource(id, reference, side);
    return found ? contents.read(found) : null;
  };
  return {
    bytes,
    size,
    part: (start: number, end: number) => contents.read(content, start, end),
    path,
    platform: nodePlatform,
    film: isInParts ? filmSource(content, format) : undefined,
    recipe,
    resolve,
    bySheet:
      sheet && bySheet(openedSheet(sheet.text), sheet.version, { bytes, path, resolve, keys: sheet.keys }),
  };
}

function findResource(id: number, reference: string, side: Side): Promise<LocalContent | null> {
  const call = ++lastCall;
  return new Promise((resolve) => {
    calls.set(call, resolve);
    post({ type: 'resolve', call, id, reference, side });
  });
}

function hashOfPieces(pieces: readonly Uint8Array[]): Uint8Array {
  const hash = startHash();
  for (const piece of pieces) hash.update(piece);
  return hash.digest();
}
