import { Box } from '@mui/material';
import type { ReactNode } from 'react';
import { colourOfDistance } from '../../../core/kinds/model/compare/distance-colour.ts';
import type { Legend } from '../engine/ways-of-seeing.ts';

const steps = 12;

/** Colours of a density, from the lowest to the highest. */
export function DensityLegend({ legend: { low, high, unit } }: { legend: Legend }): ReactNode {
  const figure = (value: number): string => Number(value.toPrecision(2)).toLocaleString('en');
  return (
    <Box
      role="img"
      aria-label={`Colours from ${figure(low)} to ${figure(high)} ${unit}`}
      sx={{
        ...{ position: 'absolute', right: 16, bottom: 12, display: 'flex', alignItems: 'center', gap: 0.75 },
        ...{ fontSize: '0.8rem', pointerEvents: 'none' },
      }}
    >
      {figure(low)}
      <Box sx={{ display: 'flex', border: 1, borderColor: 'divider' }}>
        {Array.from({ length: steps }, (_, at) => (
          <Box key={at} sx={{ width: 10, height: 12, bgcolor: cssOf(colourOfDistance(at, steps - 1)) }} />
        ))}
      </Box>
      {`${figure(high)} ${unit}`}
    </Box>
  );
}

/** Of linear light. */
export function cssOf(light: readonly number[]): string {
  const byte = (value: number): number =>
    Math.round(255 * (value <= 0.0031308 ? value * 12.92 : 1.055 * value ** (1 / 2.4) - 0.055));
  return `rgb(${light.map(byte).join(' ')})`;
}
