import { useEffect, useState } from 'react';
import type { SoundFacts } from '../../../contract/facts.ts';
import { failureOf } from '../receive.ts';
import { SoundEngine } from './sound-engine.ts';
import type { LanesRequest, SoundLanes } from './lanes-worker.ts';

/** Longer sounds are not held in the page as samples: this is half an hour in two channels. */
const mostSamples = 170_000_000;

export type Sound =
  | { state: 'loading' }
  | { state: 'failed'; reason: string }
  | { state: 'ready'; engine: SoundEngine; lanes: SoundLanes | null };

/** A sound with all its samples, and what they look like once that is worked out. @param source address of a WAV file */
export function useSound(source: string, { seconds, sampleRate, channels }: SoundFacts): Sound {
  const [sound, setSound] = useState<Sound>({ state: 'loading' });
  useEffect(() => {
    const stopping = new AbortController();
    const { signal } = stopping;
    let engine: SoundEngine | null = null;
    let worker: Worker | null = null;
    const fail = (error: unknown): void => {
      if (!signal.aborted)
        setSound({ state: 'failed', reason: error instanceof Error ? error.message : String(error) });
    };
    const load = async (): Promise<void> => {
      if (seconds * sampleRate * channels > mostSamples)
        throw new Error('it is too long to be taken apart here');
      const response = await fetch(source, { signal });
      if (!response.ok) throw new Error(await failureOf(response));
      const opened = await SoundEngine.open(await response.arrayBuffer(), sampleRate);
      if (signal.aborted) {
        await opened.close();
        return;
      }
      engine = opened;
      setSound({ state: 'ready', engine: opened, lanes: null });
      worker = new Worker(new URL('./lanes-worker.ts', import.meta.url), { type: 'module' });
      worker.onmessage = ({ data }: MessageEvent<SoundLanes>) =>
        setSound({ state: 'ready', engine: opened, lanes: data });
      const { buffer } = opened;
      worker.postMessage({
        // Copies: the thread has its own.
        channels: Array.from({ length: buffer.numberOfChannels }, (_, at) => buffer.getChannelData(at)),
        sampleRate: buffer.sampleRate,
      } satisfies LanesRequest);
    };
    load().catch(fail);
    return () => {
      stopping.abort();
      worker?.terminate();
      void engine?.close();
    };
  }, [source, seconds, sampleRate, channels]);
  return sound;
}
