import { Box, Button, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { MovedPart } from '../../../contract/arrangements.ts';
import { plural } from '../../../core/figures.ts';
import type { PartEntry } from '../engine/model-parts.ts';
import { NumberField, Triple } from './number-fields.tsx';
import { partKey } from './set-up.ts';

const unmoved = { place: [0, 0, 0], turnDegrees: [0, 0, 0], scale: 1 } satisfies Omit<MovedPart, 'part'>;

/** Moves, turns and scales parts by numbers that are typed: one, or all that are found. */
export function MovePart({
  parts,
  moved,
  onMoved,
}: {
  parts: readonly PartEntry[];
  moved: readonly MovedPart[];
  onMoved: (moved: MovedPart[]) => void;
}): ReactNode {
  const [isOpen, setOpen] = useState(false);
  const movable = parts.filter(({ isMovable }) => isMovable);
  const keys = new Set(movable.map(partKey));
  const first = moved.find(({ part }) => keys.has(part)) ?? unmoved;
  const others = moved.filter(({ part }) => !keys.has(part));
  const areMoved = others.length < moved.length;
  const move = (change: Partial<typeof unmoved> | Partial<MovedPart>): void =>
    onMoved([...others, ...[...keys].map((part): MovedPart => ({ ...first, ...change, part }))]);
  if (movable.length === 0)
    return (
      <Typography variant="body2" color="text.secondary">
        It follows its bones, and cannot be moved by itself.
      </Typography>
    );
  if (!isOpen && !areMoved)
    return (
      <Button size="small" sx={{ justifySelf: 'start' }} onClick={() => setOpen(true)}>
        {movable.length === 1
          ? 'Move by numbers'
          : `Move these ${movable.length.toLocaleString('en')} by numbers`}
      </Button>
    );
  return (
    <Box role="group" aria-label="Move by numbers" sx={{ display: 'grid', gap: 0.25 }}>
      {movable.length > 1 && <Typography variant="body2">{plural(movable.length, 'part')}</Typography>}
      <Triple label="Move, m" value={first.place} onChange={(place) => move({ place })} />
      <Triple label="Turn, °" value={first.turnDegrees} onChange={(turnDegrees) => move({ turnDegrees })} />
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 0.75 }}>
        <Typography variant="body2" color="text.secondary" sx={{ width: 74 }}>
          Size, times
        </Typography>
        <NumberField
          label="Size, times"
          isPositive
          value={first.scale}
          onChange={(scale) => move({ scale })}
        />
        <Button
          size="small"
          disabled={!areMoved}
          onClick={() => {
            onMoved(others);
            setOpen(false);
          }}
        >
          Back
        </Button>
      </Box>
    </Box>
  );
}
