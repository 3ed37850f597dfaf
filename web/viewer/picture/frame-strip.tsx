import { Box, Button } from '@mui/material';
import type { ReactNode } from 'react';

/** More frames than these are gone through by number. */
const mostFrames = 120;

/** All frames of a picture that moves, side by side. */
export function FrameStrip({
  count,
  shown,
  addressOf,
  onChoose,
}: {
  count: number;
  shown: number;
  addressOf: (frame: number) => string;
  onChoose: (frame: number) => void;
}): ReactNode {
  return (
    <Box
      role="group"
      aria-label="Frames"
      sx={{
        ...{ display: 'flex', gap: 0.5, overflowX: 'auto', p: 0.5, flexShrink: 0 },
        ...{ bgcolor: 'background.paper', borderTop: 1, borderColor: 'divider' },
      }}
    >
      {Array.from({ length: Math.min(count, mostFrames) }, (_, frame) => (
        <Button
          key={frame}
          aria-pressed={frame === shown}
          aria-label={`Frame ${frame}`}
          onClick={() => onChoose(frame)}
          sx={{
            ...{ p: 0.25, minWidth: 0, flexShrink: 0, borderRadius: 0, borderBottom: 2 },
            borderColor: frame === shown ? 'primary.main' : 'transparent',
          }}
        >
          <Box
            component="img"
            src={addressOf(frame)}
            alt=""
            loading="lazy"
            sx={{ width: 64, height: 64, objectFit: 'contain', bgcolor: 'plate' }}
          />
        </Button>
      ))}
    </Box>
  );
}
