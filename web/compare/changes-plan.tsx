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
import type { PlacementChange } from '../../contract/comparisons.ts';
import type { Placement } from '../../contract/facts.ts';
import { drawGrid, frameOf } from '../viewer/plan-frame.ts';

/** Shapes that tell statuses without colour, ten units wide. */
const shapes: Record<PlacementChange['status'], string> = {
  added: 'M-1.6 -6H1.6V-1.6H6V1.6H1.6V6H-1.6V1.6H-6V-1.6H-1.6Z',
  gone: 'M-6 -1.6H6V1.6H-6Z',
  moved: 'M0 -5A5 5 0 1 1 0 5A5 5 0 1 1 0 -5Z',
  turned: 'M0 -6L5.5 4H-5.5Z',
  scaled: 'M-5 -5H5V5H-5Z',
  swapped: 'M0 -6.5L6.5 0L0 6.5L-6.5 0Z',
  changed: 'M-5 -5L5 5M5 -5L-5 5',
};

/** The map from above: what stayed as dots, what changed by its status, and the way that something moved. */
export function ChangesPlan({
  placements,
  changes,
  selected,
  onSelect,
}: {
  placements: readonly Placement[];
  changes: readonly PlacementChange[];
  selected: PlacementChange | null;
  onSelect: (change: PlacementChange) => void;
}): ReactNode {
  const { palette } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const holder = canvas.current?.parentElement;
    if (!holder) return;
    const observer = new ResizeObserver(() => setSize({ width: holder.clientWidth, height: holder.clientHeight }));
    observer.observe(holder);
    return () => observer.disconnect();
  }, []);
  const frame = useMemo(
    () => frameOf([...placements, ...changes, ...changes.map(({ oldPosition }) => ({ position: oldPosition }))], size.width, size.height),
    [placements, changes, size],
  );
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context || size.width === 0) return;
    const ratio = window.devicePixelRatio;
    [element.width, element.height] = [size.width * ratio, size.height * ratio];
    context.scale(ratio, ratio);
    drawGrid(context, frame, size, palette.divider, palette.text.primary);
    context.fillStyle = palette.text.secondary;
    for (const placement of placements) {
      const [x, y] = frame.at(placement);
      context.fillRect(x - 1, y - 1, 2, 2);
    }
    for (const change of changes) {
      const colour = change.status === 'added' ? palette.statuses.added : change.status === 'gone' ? palette.statuses.removed : palette.primary.main;
      const [x, y] = frame.at(change);
      context.strokeStyle = context.fillStyle = colour;
      if (change.status === 'moved') {
        const [fromX, fromY] = frame.at({ position: change.oldPosition });
        context.beginPath();
        context.moveTo(fromX, fromY);
        context.lineTo(x, y);
        context.stroke();
      }
      context.save();
      context.translate(x, y);
      context.scale(change === selected ? 1.9 : 1, change === selected ? 1.9 : 1);
      const shape = new Path2D(shapes[change.status]);
      if (change.status === 'changed') context.stroke(shape);
      else context.fill(shape);
      context.restore();
    }
  }, [placements, changes, selected, size, frame, palette]);
  const onPointerDown = (event: PointerEvent<HTMLCanvasElement>): void => {
    const box = event.currentTarget.getBoundingClientRect();
    const distance = (change: PlacementChange): number => {
      const [x, y] = frame.at(change);
      return Math.hypot(x - (event.clientX - box.left), y - (event.clientY - box.top));
    };
    const nearest = changes.reduce<PlacementChange | null>((best, change) => (best && distance(best) <= distance(change) ? best : change), null);
    if (nearest && distance(nearest) < 16) onSelect(nearest);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const step = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 }[event.key];
    if (step === undefined || changes.length === 0) return;
    const next = changes[((selected ? changes.indexOf(selected) : -1) + step + changes.length) % changes.length];
    if (next) onSelect(next);
    event.preventDefault();
  };
  return (
    <Box tabIndex={0} role="application" aria-label={`Plan with ${changes.length} changes: arrows go from one to the next`} onKeyDown={onKeyDown} sx={{ flex: 1, minHeight: 0, overflow: 'hidden', position: 'relative', bgcolor: 'plate' }}>
      <canvas ref={canvas} style={{ position: 'absolute', width: size.width, height: size.height }} onPointerDown={onPointerDown} />
    </Box>
  );
} // prettier-ignore
