import { Box, Button } from '@mui/material';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { save } from '../../ui/save.ts';
import type { ModelCanvas } from '../engine/model-canvas.ts';
import { turntableOf } from '../engine/turntable.ts';

const frames = 48;
const milliseconds = 62;

/** Saves a model as it turns; says how far it is, and can be stopped. */
export function useTurntable(
  canvas: ModelCanvas | null,
  name: string,
): { start: (pixels: number) => void; note: ReactNode } {
  const [made, setMade] = useState<number | null>(null);
  const [failure, setFailure] = useState('');
  const stopping = useRef<AbortController | null>(null);
  useEffect(() => () => stopping.current?.abort(), [canvas]);
  const start = (pixels: number): void => {
    if (!canvas) return;
    stopping.current?.abort();
    const controller = new AbortController();
    stopping.current = controller;
    setFailure('');
    setMade(0);
    const { signal } = controller;
    void turntableOf(canvas, { pixels, frames, milliseconds, onFrame: setMade, signal })
      .then((blob) => save(blob, `${name}.webp`))
      .catch((error: unknown) => {
        if (!signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
      })
      .finally(() => {
        if (stopping.current === controller) setMade(null);
      });
  };
  const place = { position: 'absolute', left: 16, top: 12, bgcolor: 'background.paper', px: 1 } as const;
  const note =
    made !== null ? (
      <Box role="status" sx={place}>
        {`${made} of ${frames} pictures of the turntable `}
        <Button size="small" onClick={() => stopping.current?.abort()}>
          Stop
        </Button>
      </Box>
    ) : failure === '' ? null : (
      <Box role="alert" sx={place}>
        {`The turntable was not made: ${failure}.`}
      </Box>
    );
  return { start, note };
}
