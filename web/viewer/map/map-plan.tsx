import { useTheme } from '@mui/material';
import { useCallback, useMemo, type ReactNode } from 'react';
import type { Placement } from '../../../contract/facts.ts';
import { classShape } from './class-mark.tsx';
import { PlanCanvas, drawAt } from './plan-canvas.tsx';
import type { Frame } from './plan-frame.ts';

interface Props {
  /** All of the map, which the frame holds whatever is shown. */
  all: readonly Placement[];
  placements: readonly Placement[];
  /** Names of the classes, in the order of their shapes. */
  classes: readonly string[];
  selected: string | null;
  onSelect: (id: string) => void;
}

/** The map from above, a shape for each placement. */
export function MapPlan({ all, placements, classes, selected, onSelect }: Props): ReactNode {
  const { palette } = useTheme();
  const shapes = useMemo(
    () => new Map(classes.map((name, index) => [name, new Path2D(classShape(index))])),
    [classes],
  );
  const draw = useCallback(
    (context: CanvasRenderingContext2D, frame: Frame) => {
      for (const placement of placements) {
        const shape = shapes.get(placement.class);
        if (!shape) continue;
        const isSelected = placement.id === selected;
        context.fillStyle = isSelected ? palette.primary.main : palette.text.primary;
        drawAt(context, frame.at(placement), isSelected ? 1.8 : 0.9, () => context.fill(shape));
      }
    },
    [placements, shapes, selected, palette],
  );
  return (
    <PlanCanvas
      label={`Plan with ${placements.length} placements`}
      all={all}
      marks={placements}
      selected={placements.find(({ id }) => id === selected) ?? null}
      onSelect={({ id }) => onSelect(id)}
      draw={draw}
    />
  );
}
