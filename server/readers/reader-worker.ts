import { parentPort, workerData } from 'node:worker_threads';
import { loadReader } from '../../core/kinds/read.ts';
import { ReadError } from '../../core/kinds/reading.ts';
import { messageOf } from '../plain-error.ts';
import type { ContentPlace } from '../store/layout.ts';
import { readContent } from '../store/read-content.ts';
import type { FromReader, ReadTask, ToReader } from './messages.ts';
import { encodePreview, nodePlatform } from './platform.ts';

/** A thread that reads facts of contents, one at a time. It is ended from outside when a reader hangs. */
const port = parentPort;
if (!port) throw new Error('reader-worker: not started as a worker thread');
const { store } = workerData as { store: string };
const tell = (message: FromReader): void => port.postMessage(message);

let work = Promise.resolve();
let lastCall = 0;
const calls = new Map<number, (place: ContentPlace | null) => void>();

port.on('message', (message: ToReader) => {
  if (message.type === 'read') {
    // One at a time: whoever hangs is then known to be the first that was sent.
    work = work.then(() => read(message.task));
  } else {
    calls.get(message.call)?.(message.place);
    calls.delete(message.call);
  }
});
tell({ type: 'ready' });

async function read(task: ReadTask): Promise<void> {
  try {
    const reader = await loadReader(task.format);
    if (!reader) throw new ReadError(`no reader for ${task.format}`);
    const reading = await reader({
      bytes: await readContent(store, task.place),
      path: task.path,
      platform: nodePlatform,
      resolve: (reference) => resolve(task.id, reference),
    });
    const preview = reading.preview ? await encodePreview(reading.preview) : null;
    tell({ type: 'done', id: task.id, facts: reading.facts, preview, reason: null });
  } catch (error) {
    tell({ type: 'done', id: task.id, facts: null, preview: null, reason: messageOf(error) });
  }
}

async function resolve(id: number, reference: string): Promise<Uint8Array | null> {
  const call = ++lastCall;
  const place = await new Promise<ContentPlace | null>((answer) => {
    calls.set(call, answer);
    tell({ type: 'resolve', call, id, reference });
  });
  return place ? readContent(store, place) : null;
}
