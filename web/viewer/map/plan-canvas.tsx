import { Box, useTheme } from '@mui/material';
import KDBush from 'kdbush';
import {
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from 'react';
import type { Placement } from '../../../contract/facts.ts';
import { drawGrid, frameOf, type Frame } from './plan-frame.ts';

type Placed = Pick<Placement, 'position'>;

interface Props<Mark extends Placed> {
  label: string;
  /** What the frame holds, whatever is marked. */
  all: readonly Placed[];
  /** What can be chosen, in the order in which the arrows go. */
  marks: readonly Mark[];
  selected: Mark | null;
  onSelect: (mark: Mark) => void;
  /** Draws what stands on the grid; its identity changes when there is something else to draw. */
  draw: (context: CanvasRenderingContext2D, frame: Frame) => void;
  background?: string;
}

/** How near to a mark a pointer chooses it. */
const reachPixels = 15;

/** A map from above on a grid: x to the right, z downwards. A canvas, for maps are huge. */
export function PlanCanvas<Mark extends Placed>({
  label,
  all,
  marks,
  selected,
  onSelect,
  draw,
  background,
}: Props<Mark>): ReactNode {
  const { palette } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const holder = canvas.current?.parentElement;
    if (!holder) return;
    const observer = new ResizeObserver(() =>
      setSize({ width: holder.clientWidth, height: holder.clientHeight }),
    );
    observer.observe(holder);
    return () => observer.disconnect();
  }, []);
  const frame = useMemo(() => frameOf(all, size.width, size.height), [all, size]);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    const ratio = window.devicePixelRatio;
    element.width = size.width * ratio;
    element.height = size.height * ratio;
    context.scale(ratio, ratio);
    drawGrid(context, frame, size, palette.divider, palette.text.primary);
    draw(context, frame);
  }, [draw, size, frame, palette]);

  // Made when somebody points for the first time: among a million it finds what lies there at once.
  const index = useRef<{ of: readonly Mark[]; frame: Frame; tree: KDBush } | null>(null);
  const markAt = (x: number, y: number): Mark | null => {
    let made = index.current;
    if (made?.of !== marks || made.frame !== frame) {
      const tree = new KDBush(marks.length);
      for (const mark of marks) tree.add(...frame.at(mark));
      tree.finish();
      made = index.current = { of: marks, frame, tree };
    }
    const near = made.tree.within(x, y, reachPixels).map((at) => marks[at]);
    const distanceOf = (mark: Mark): number => {
      const [left, top] = frame.at(mark);
      return Math.hypot(left - x, top - y);
    };
    return near
      .filter((mark) => mark !== undefined)
      .reduce<Mark | null>(
        (best, mark) => (best && distanceOf(best) <= distanceOf(mark) ? best : mark),
        null,
      );
  };
  const onPointerDown = (event: PointerEvent<HTMLCanvasElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const nearest = markAt(event.clientX - box.left, event.clientY - box.top);
    if (nearest) onSelect(nearest);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step === undefined || marks.length === 0) return;
    const index = selected ? marks.indexOf(selected) : -1;
    const next = marks[(Math.max(index, step > 0 ? -1 : 0) + step + marks.length) % marks.length];
    if (next) onSelect(next);
    event.preventDefault();
  };
  return (
    <Box
      tabIndex={0}
      role="application"
      aria-label={`${label}: arrows go from one to the next`}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 0, overflow: 'hidden', position: 'relative', bgcolor: background }}
    >
      <canvas
        ref={canvas}
        style={{ position: 'absolute', width: size.width, height: size.height }}
        onPointerDown={onPointerDown}
      />
    </Box>
  );
}

/** Draws something at a place in pixels, larger by a factor. */
export function drawAt(
  context: CanvasRenderingContext2D,
  [x, y]: readonly [number, number],
  factor: number,
  draw: () => void,
): void {
  context.save();
  context.translate(x, y);
  context.scale(factor, factor);
  draw();
  context.restore();
}
