import { useEffect, useRef, useState, type KeyboardEvent, type RefObject } from 'react';
import { ModelCanvas } from './engine/model-canvas.ts';
import type { OverlayColours } from './engine/overlays.ts';
import type { ScaleBar } from './engine/scale-bar.ts';

interface UsedCanvas {
  holder: RefObject<HTMLDivElement | null>;
  canvas: ModelCanvas | null;
  failure: string;
  scaleBar: ScaleBar | null;
  onKeyDown: (event: KeyboardEvent) => void;
}

const turnRadians = 0.15;
/** Of the height of the picture. */
const shiftShare = 0.05;
/** Of the distance to what is looked at. */
const flyShare = 0.06;

/** A canvas that lives as long as the component, with keys that steer it. */
export function useModelCanvas(colours?: OverlayColours): UsedCanvas {
  const holder = useRef<HTMLDivElement>(null);
  const [canvas, setCanvas] = useState<ModelCanvas | null>(null);
  const [failure, setFailure] = useState('');
  const [scaleBar, setScaleBar] = useState<ScaleBar | null>(null);
  const first = useRef(colours);
  useEffect(() => {
    if (!holder.current) return;
    let made: ModelCanvas | null = null;
    try {
      made = new ModelCanvas(holder.current, first.current);
      made.onScaleBar = (bar) =>
        setScaleBar((before) =>
          before?.metres === bar.metres && Math.abs(before.pixels - bar.pixels) < 0.5 ? before : bar,
        );
      setCanvas(made);
    } catch (error) {
      setFailure(`This browser cannot draw in 3D: ${error instanceof Error ? error.message : String(error)}`);
    }
    return () => made?.close();
  }, []);
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!canvas || event.ctrlKey || event.metaKey || event.altKey) return;
    const action = actionsOf(canvas, event.shiftKey)[
      event.key.length === 1 ? event.key.toLowerCase() : event.key
    ];
    if (!action) return;
    action();
    event.preventDefault();
  };
  return { holder, canvas, failure, scaleBar, onKeyDown };
}

/** What keys do: arrows turn, or shift the picture together with the shift key; w, a, s, d, q and e go through the scene. */
function actionsOf(canvas: ModelCanvas, isShift: boolean): Partial<Record<string, () => void>> {
  const eye = canvas.steering;
  const arrow = (sideways: number, upwards: number) => () =>
    isShift
      ? eye.shift(sideways * shiftShare, upwards * shiftShare)
      : eye.turn(sideways * turnRadians, upwards * turnRadians);
  const step = isShift ? flyShare * 4 : flyShare;
  return {
    ...{ ArrowLeft: arrow(-1, 0), ArrowRight: arrow(1, 0), ArrowUp: arrow(0, 1), ArrowDown: arrow(0, -1) },
    ...{ w: () => eye.fly(step, 0, 0), s: () => eye.fly(-step, 0, 0) },
    ...{ a: () => eye.fly(0, -step, 0), d: () => eye.fly(0, step, 0) },
    ...{ e: () => eye.fly(0, 0, step), q: () => eye.fly(0, 0, -step) },
    ...{ '+': () => eye.approach(0.85), '=': () => eye.approach(0.85), '-': () => eye.approach(1.18) },
    '0': () => canvas.lookAtAll(),
  };
}
