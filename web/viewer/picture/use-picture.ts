import { useCallback, useEffect, useRef, useState, type RefObject } from 'react';
import type { PictureView } from '../../../core/kinds/picture/view/draw-view.ts';
import type { PixelRegion } from '../../../core/kinds/picture/view/pixel-bytes.ts';
import type { FromPictureWorker, LoadedPicture, ToPictureWorker } from './picture-worker.ts';

export interface PixelValue {
  x: number;
  y: number;
  values: number[];
}

/**
 * The thread that has a picture’s numbers, and draws them on a canvas.
 * @param addresses of the picture, or of the six sides of a cube
 */
export function usePicture(canvas: RefObject<HTMLCanvasElement | null>, addresses: readonly string[]) {
  const worker = useRef<Worker | null>(null);
  const loads = useRef(0);
  const draws = useRef(0);
  /** A view that waits until the one before is drawn. */
  const waiting = useRef<PictureView | null>(null);
  const isDrawing = useRef(false);
  const [loaded, setLoaded] = useState<{ of: string; picture: LoadedPicture } | null>(null);
  const [failed, setFailed] = useState<{ of: string; reason: string } | null>(null);
  const [bytes, setBytes] = useState(0);
  const [value, setValue] = useState<PixelValue | null>(null);
  const [part, setPart] = useState<PixelRegion | null>(null);
  const key = addresses.join('\n');
  const of = useRef(key);

  const send = useCallback((message: ToPictureWorker): void => worker.current?.postMessage(message), []);
  const draw = useCallback(
    (view: PictureView): void => {
      waiting.current = view;
      if (isDrawing.current) return;
      isDrawing.current = true;
      waiting.current = null;
      send({ type: 'draw', draw: ++draws.current, view });
    },
    [send],
  );

  useEffect(() => {
    const made = new Worker(new URL('./picture-worker.ts', import.meta.url), { type: 'module' });
    worker.current = made;
    made.onmessage = ({ data }: MessageEvent<FromPictureWorker>): void => {
      if ('load' in data && data.load !== loads.current) return;
      switch (data.type) {
        case 'progress':
          setBytes(data.bytes);
          break;
        case 'loaded':
          setLoaded({ of: of.current, picture: data.picture });
          break;
        case 'part':
          setPart(data.region);
          break;
        case 'failed':
          setFailed({ of: of.current, reason: data.reason });
          break;
        case 'value':
          setValue(data.values && { x: data.x, y: data.y, values: data.values });
          break;
        case 'drawn': {
          isDrawing.current = false;
          const element = canvas.current;
          if (element) {
            element.width = data.width;
            element.height = data.height;
            element.getContext('2d')?.putImageData(new ImageData(data.rgba, data.width, data.height), 0, 0);
          }
          if (waiting.current) draw(waiting.current);
        }
      }
    };
    made.onerror = ({ message }) => setFailed({ of: of.current, reason: message });
    return () => {
      made.terminate();
      worker.current = null;
    };
  }, [canvas, draw]);
  useEffect(() => {
    of.current = key;
    setBytes(0);
    setPart(null);
    send({ type: 'load', load: ++loads.current, addresses: key.split('\n') });
  }, [key, send]);

  const askValue = useCallback(
    (place: { x: number; y: number } | null): void => {
      if (place) send({ type: 'value', ...place });
      else setValue(null);
    },
    [send],
  );
  const askPart = useCallback(
    (address: string): void => send({ type: 'part', load: loads.current, address }),
    [send],
  );
  return {
    // What was there before stays until the next is there: frames follow one another without a flicker.
    picture: loaded?.picture ?? null,
    isCurrent: loaded?.of === key,
    failure: failed?.of === key ? failed.reason : '',
    ...{ bytes, value, part, draw, askValue, askPart },
  };
}
