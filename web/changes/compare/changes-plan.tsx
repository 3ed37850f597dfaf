import { useTheme } from '@mui/material';
import { useCallback, useMemo, type ReactNode } from 'react';
import type { PlacementChange } from '../../../contract/comparisons.ts';
import type { Placement } from '../../../contract/facts.ts';
import { PlanCanvas, drawAt } from '../../viewer/map/plan-canvas.tsx';
import type { Frame } from '../../viewer/map/plan-frame.ts';

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

interface Props {
  placements: readonly Placement[];
  changes: readonly PlacementChange[];
  selected: PlacementChange | null;
  onSelect: (change: PlacementChange) => void;
}

/** The map from above: what stayed as dots, what changed by its status, and the way that something moved. */
export function ChangesPlan({ placements, changes, selected, onSelect }: Props): ReactNode {
  const { palette } = useTheme();
  const all = useMemo(
    () => [...placements, ...changes, ...changes.map(({ oldPosition }) => ({ position: oldPosition }))],
    [placements, changes],
  );
  const draw = useCallback(
    (context: CanvasRenderingContext2D, frame: Frame) => {
      context.fillStyle = palette.text.secondary;
      for (const placement of placements) {
        const [x, y] = frame.at(placement);
        context.fillRect(x - 1, y - 1, 2, 2);
      }
      const colours = { added: palette.statuses.added, gone: palette.statuses.removed };
      for (const change of changes) {
        const { status } = change;
        const colour = status === 'added' || status === 'gone' ? colours[status] : palette.primary.main;
        const [x, y] = frame.at(change);
        context.strokeStyle = context.fillStyle = colour;
        if (status === 'moved') {
          context.beginPath();
          context.moveTo(...frame.at({ position: change.oldPosition }));
          context.lineTo(x, y);
          context.stroke();
        }
        const shape = new Path2D(shapes[status]);
        drawAt(context, [x, y], change === selected ? 1.9 : 1, () =>
          status === 'changed' ? context.stroke(shape) : context.fill(shape),
        );
      }
    },
    [placements, changes, selected, palette],
  );
  return (
    <PlanCanvas
      label={`Plan with ${changes.length} changes`}
      all={all}
      marks={changes}
      selected={selected}
      onSelect={onSelect}
      draw={draw}
      background="plate"
    />
  );
}
