import { useTheme } from '@mui/material';
import type { ReactNode } from 'react';

/** A waveform from its extremes in slices of time. */
export function Envelope({ envelope, height }: { envelope: readonly number[]; height: number }): ReactNode {
  const { palette } = useTheme();
  const slices = envelope.length / 2;
  const path = Array.from({ length: slices }, (_, slice) => {
    const low = envelope[slice * 2] ?? 0;
    const high = envelope[slice * 2 + 1] ?? 0;
    return `M${slice + 0.5} ${(1 - high).toFixed(3)}V${(1 - low + 0.01).toFixed(3)}`;
  }).join('');
  return (
    <svg
      viewBox={`0 0 ${Math.max(1, slices)} 2`}
      width="92%"
      height={height}
      preserveAspectRatio="none"
      aria-hidden
    >
      <path
        d={path}
        stroke={palette.text.primary}
        strokeWidth={1}
        fill="none"
        vectorEffect="non-scaling-stroke"
      />
    </svg>
  );
}
