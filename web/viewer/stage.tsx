import { Box } from '@mui/material';
import type { ReactNode } from 'react';
import { lengthText, type LengthUnit } from '../../core/kinds/comparing.ts';
import type { ScaleBar } from './engine/scale-bar.ts';
import type { useModelCanvas } from './use-model-canvas.ts';

/** The plate that a canvas stands on, with a scale bar. @param unit what lengths are told in */
export function Stage({
  used: { holder, scaleBar, onKeyDown },
  label,
  unit = 'metres',
}: {
  used: ReturnType<typeof useModelCanvas>;
  label: string;
  unit?: LengthUnit;
}): ReactNode {
  return (
    <Box
      tabIndex={0}
      role="application"
      aria-label={`${label}: arrows turn, with the shift key they shift the picture, w a s d q e go through it, + and - approach and leave, 0 shows all`}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minWidth: 0, minHeight: 0, position: 'relative', overflow: 'hidden' }}
    >
      <Box ref={holder} sx={{ position: 'absolute', inset: 0 }} />
      {scaleBar && <Bar bar={scaleBar} unit={unit} />}
    </Box>
  );
}

function Bar({ bar: { metres, pixels }, unit }: { bar: ScaleBar; unit: LengthUnit }): ReactNode {
  return (
    <Box sx={{ position: 'absolute', left: 16, bottom: 12, pointerEvents: 'none', fontSize: '0.8rem' }}>
      {lengthOnBar(metres, unit)}
      <Box
        sx={{
          width: pixels,
          height: 6,
          borderLeft: 1,
          borderRight: 1,
          borderBottom: 1,
          borderColor: 'text.primary',
        }}
      />
    </Box>
  );
}

function lengthOnBar(metres: number, unit: LengthUnit): string {
  if (unit === 'units') return lengthText(metres, unit);
  if (metres >= 1000) return `${metres / 1000} km`;
  if (metres >= 1) return `${metres} m`;
  if (metres >= 0.01) return `${Math.round(metres * 100)} cm`;
  return `${Number((metres * 1000).toPrecision(2))} mm`;
}
