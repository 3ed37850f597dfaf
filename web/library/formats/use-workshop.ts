import { wrap, type Remote } from 'comlink';
import { useEffect, useRef, useState } from 'react';
import type { Outcome } from '../../../core/formats/workshop.ts';
import type { OpenedFile, WorkshopThread } from './workshop-worker.ts';

export type Thread = Remote<WorkshopThread>;

export interface Tried {
  thread: Thread | null;
  /** What came of the sheet as it was last tried; null before the file is there. */
  outcome: Outcome | null;
  /** The sheet that this came of. */
  text: string;
  /** Counts up with each trial: what was fetched for another one is fetched again. */
  round: number;
  failure: string;
}

/** No key is waited for longer than this. */
const pauseMs = 30;
/** A trial has a limit of its own; a thread that says nothing for so long is given up. */
const patienceMs = 8000;

/** Tries a sheet on a file in a thread of its own, whenever either changes. @param file the same object as long as it is the same file */
export function useWorkshop(file: OpenedFile | null, text: string, version: string | null): Tried {
  const [thread, setThread] = useState<Thread | null>(null);
  const [tried, setTried] = useState<Omit<Tried, 'thread'>>({
    ...{ outcome: null, text: '', round: 0, failure: '' },
  });
  const [restarts, setRestarts] = useState(0);
  const last = useRef(0);
  useEffect(() => {
    setThread(null);
    if (!file) return;
    const worker = new Worker(new URL('./workshop-worker.ts', import.meta.url), { type: 'module' });
    const remote = wrap<WorkshopThread>(worker);
    let isCurrent = true;
    remote.open(file).then(
      () => isCurrent && setThread(() => remote),
      (error: unknown) =>
        isCurrent && setTried((before) => ({ ...before, outcome: null, failure: messageOf(error) })),
    );
    return () => {
      isCurrent = false;
      worker.terminate();
    };
  }, [file, restarts]);
  useEffect(() => {
    if (!thread) return;
    const number = ++last.current;
    let late: ReturnType<typeof setTimeout> | undefined;
    const pause = setTimeout(() => {
      late = setTimeout(() => {
        setTried((before) => ({ ...before, failure: 'This sheet takes too long on this file.' }));
        setRestarts((count) => count + 1);
      }, patienceMs);
      thread.tried(text, version).then(
        (outcome) => {
          clearTimeout(late);
          if (number === last.current)
            setTried(({ round }) => ({ outcome, text, round: round + 1, failure: '' }));
        },
        (error: unknown) => {
          clearTimeout(late);
          setTried((before) => ({ ...before, failure: messageOf(error) }));
        },
      );
    }, pauseMs);
    return () => {
      clearTimeout(pause);
      clearTimeout(late);
    };
  }, [thread, text, version]);
  return { thread, ...tried };
}

function messageOf(error: unknown): string {
  return error instanceof Error ? error.message : String(error);
}
