import { useEffect, useRef, useState, type KeyboardEvent, type RefObject } from 'react';
import { ModelCanvas, type ScaleBar } from './model-canvas.ts';

interface UsedCanvas {
  holder: RefObject<HTMLDivElement | null>;
  canvas: ModelCanvas | null;
  failure: string;
  scaleBar: ScaleBar | null;
  onKeyDown: (event: KeyboardEvent) => void;
}

const turnRadians = 0.15;

/** A canvas that lives as long as the component, with keys that steer it. */
export function useModelCanvas(): UsedCanvas {
  const holder = useRef<HTMLDivElement>(null);
  const [canvas, setCanvas] = useState<ModelCanvas | null>(null);
  const [failure, setFailure] = useState('');
  const [scaleBar, setScaleBar] = useState<ScaleBar | null>(null);
  useEffect(() => {
    if (!holder.current) return;
    let made: ModelCanvas | null = null;
    try {
      made = new ModelCanvas(holder.current);
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
    const actions: Record<string, () => void> = {
      ArrowLeft: () => canvas.turn(-turnRadians, 0),
      ArrowRight: () => canvas.turn(turnRadians, 0),
      ArrowUp: () => canvas.turn(0, turnRadians),
      ArrowDown: () => canvas.turn(0, -turnRadians),
      '+': () => canvas.approach(0.85),
      '-': () => canvas.approach(1.18),
      '0': () => canvas.lookAtAll(),
    };
    const action = actions[event.key];
    if (!action) return;
    action();
    event.preventDefault();
  };
  return { holder, canvas, failure, scaleBar, onKeyDown };
}
