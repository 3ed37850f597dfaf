import { useEffect, useRef, useState } from 'react';
import type { CanvasReport } from '../engine/standing-model.ts';
import type { useModelCanvas } from '../use-model-canvas.ts';
import { giveDecoders } from '../model-decoders.ts';
import { viewFrom, viewWord } from './look-address.ts';
import type { useViewerWords } from './use-viewer-words.ts';

/** The address follows the camera once it rests. */
const viewPauseMs = 400;

type Canvas = ReturnType<typeof useModelCanvas>['canvas'];
type Words = ReturnType<typeof useViewerWords>;

/** Loads the model, as it is or without what takes a decoder; can be stopped. */
export function useLoaded(canvas: Canvas, source: string, unpacked: string) {
  const [report, setReport] = useState<CanvasReport | null>(null);
  const [failure, setFailure] = useState('');
  const [progress, setProgress] = useState<{ bytes: number; total: number | null } | null>(null);
  const stopping = useRef<AbortController | null>(null);
  /** Another level of the same thing is looked at from where the one before was. */
  const hasStood = useRef(false);
  useEffect(() => {
    if (!canvas) return;
    const controller = new AbortController();
    stopping.current = controller;
    const { signal } = controller;
    const onProgress = (bytes: number, total: number | null): void => setProgress({ bytes, total });
    const load = (address: string) =>
      canvas.load(address, { signal, onProgress, giveDecoders }, hasStood.current);
    const loading =
      unpacked === source
        ? load(source)
        : load(source).catch((error: unknown) => {
            if (signal.aborted) throw error;
            return load(unpacked);
          });
    let isCurrent = true;
    loading.then(
      (loaded) => {
        if (!isCurrent) return;
        hasStood.current = true;
        setReport(loaded);
      },
      (error: unknown) => {
        if (!isCurrent) return;
        setFailure(
          signal.aborted ? 'Loading was stopped.' : error instanceof Error ? error.message : String(error),
        );
      },
    );
    return () => {
      isCurrent = false;
      controller.abort();
    };
  }, [canvas, source, unpacked]);
  return { report, failure, progress, stop: () => stopping.current?.abort() };
}

/** From where the model is looked at: as the address says when it is opened, and said there once the camera rests. */
export function useEye(canvas: Canvas, isLoaded: boolean, said: Words[0], say: Words[1]) {
  const [isParallel, setParallel] = useState(() => viewFrom(said)?.height !== undefined);
  useEffect(() => {
    if (!canvas || !isLoaded) return;
    const view = viewFrom(said);
    if (view) canvas.setView(view);
    let pause: ReturnType<typeof setTimeout> | undefined;
    canvas.onView = (next) => {
      clearTimeout(pause);
      pause = setTimeout(() => say({ eye: viewWord(next) }), viewPauseMs);
    };
    return () => {
      clearTimeout(pause);
      canvas.onView = () => undefined;
    };
    // What the address says counts when the model is opened: from then on the camera says it.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [canvas, isLoaded]);
  return {
    isParallel,
    setParallel: (isOn: boolean) => {
      setParallel(isOn);
      canvas?.setParallel(isOn);
    },
  };
}
