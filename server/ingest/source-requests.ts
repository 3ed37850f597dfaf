import type { SeenSource } from '../../contract/look.ts';
import type { KeyTrial, LockedPlace } from './keys/try-key.ts';
import { PlainError } from '../platform/plain-error.ts';
import { startThread } from '../platform/threads/start-thread.ts';

export type SourceRequest =
  { type: 'look'; source: string } | { type: 'try key'; places: readonly LockedPlace[]; key: Uint8Array };

export type SourceOutcome = { result: unknown } | { error: string };

/** Looks into a source in a thread of its own. @throws PlainError when the source is not there */
export async function lookInThread(source: string): Promise<SeenSource> {
  return (await request({ type: 'look', source })) as SeenSource;
}

/** Tries a key on what is locked in a thread of its own. */
export async function tryKeyInThread(places: readonly LockedPlace[], key: Uint8Array): Promise<KeyTrial> {
  return (await request({ type: 'try key', places, key })) as KeyTrial;
}

async function request(sent: SourceRequest): Promise<unknown> {
  const thread = startThread('source-thread', { workerData: sent });
  try {
    const outcome = await new Promise<SourceOutcome>((resolve, reject) => {
      thread.on('message', resolve);
      thread.on('error', reject);
      thread.on('exit', () => reject(new PlainError('The look into the source ended early.')));
    });
    if ('error' in outcome) throw new PlainError(outcome.error);
    return outcome.result;
  } finally {
    await thread.terminate();
  }
}
