import { parentPort, workerData } from 'node:worker_threads';
import { tryKey } from '../ingest/keys/try-key.ts';
import { messageOf } from '../platform/plain-error.ts';
import type { SourceOutcome, SourceRequest } from '../ingest/source-requests.ts';
import { lookInto } from '../ingest/look.ts';

/** A thread that answers one question about a source, so that the server's own loop stays free. */
const port = parentPort;
if (!port) throw new Error('source-thread: not started as a worker thread');
const question = workerData as SourceRequest;
const answer = question.type === 'look' ? lookInto(question.source) : tryKey(question.places, question.key);
answer.then(
  (result) => port.postMessage({ result } satisfies SourceOutcome),
  (error: unknown) => port.postMessage({ error: messageOf(error) } satisfies SourceOutcome),
);
