import { Box, useTheme } from '@mui/material';
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
import type { Placement } from '../../contract/facts.ts';
import { classShape } from './class-mark.tsx';
import { drawGrid, frameOf } from './plan-frame.ts';

interface Props {
  /** All of the map, which the frame holds whatever is shown. */
  all: readonly Placement[];
  placements: readonly Placement[];
  /** Names of the classes, in the order of their shapes. */
  classes: readonly string[];
  selected: string | null;
  onSelect: (id: string) => void;
}

/** The map from above: x to the right, z downwards, a shape for each placement. Drawn on a canvas, for maps are huge. */
export function MapPlan({ all, placements, classes, selected, onSelect }: Props): ReactNode {
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
    const shapes = new Map(classes.map((name, index) => [name, new Path2D(classShape(index))]));
    for (const placement of placements) {
      const [x, y] = frame.at(placement);
      const shape = shapes.get(placement.class);
      if (!shape) continue;
      const isSelected = placement.id === selected;
      context.save();
      context.translate(x, y);
      context.scale(isSelected ? 1.8 : 0.9, isSelected ? 1.8 : 0.9);
      context.fillStyle = isSelected ? palette.primary.main : palette.text.primary;
      context.fill(shape);
      context.restore();
    }
  }, [placements, classes, selected, size, frame, palette]);

  const onPointerDown = (event: PointerEvent<HTMLCanvasElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const distance = (placement: Placement): number => {
      const [x, y] = frame.at(placement);
      return Math.hypot(x - (event.clientX - box.left), y - (event.clientY - box.top));
    };
    const nearest = placements.reduce<Placement | null>(
      (best, candidate) => (best && distance(best) <= distance(candidate) ? best : candidate),
      null,
    );
    if (nearest && distance(nearest) < 14) onSelect(nearest.id);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step === undefined || placements.length === 0) return;
    const index = placements.findIndex(({ id }) => id === selected);
    const next = placements[(index + step + placements.length) % placements.length];
    if (next) onSelect(next.id);
    event.preventDefault();
  };
  return (
    <Box
      tabIndex={0}
      role="application"
      aria-label={`Plan with ${placements.length} placements: arrows go from one to the next`}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 0, overflow: 'hidden', position: 'relative' }}
    >
      <canvas
        ref={canvas}
        style={{ position: 'absolute', width: size.width, height: size.height }}
        onPointerDown={onPointerDown}
      />
    </Box>
  );
}
