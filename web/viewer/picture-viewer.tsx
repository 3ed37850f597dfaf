import { Box } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { PictureFacts } from '../../contract/facts.ts';
import { Toggle } from '../shell/toggle.tsx';
import { Toolbar } from './toolbar.tsx';

const zooms = [0.25, 0.5, 1, 2, 4, 8] as const;
const grounds = { plate: 'plate', light: '#ffffff', dark: '#101010' } as const;

/** A picture on its plate, at a scale that is known, on a ground that shows its alpha. */
export function PictureViewer({
  source,
  facts,
  name,
}: {
  source: string;
  facts: PictureFacts;
  name: string;
}): ReactNode {
  const [zoom, setZoom] = useState<number | 'fit'>('fit');
  const [ground, setGround] = useState<keyof typeof grounds>('plate');
  const size =
    zoom === 'fit'
      ? { maxWidth: '100%', maxHeight: '100%' }
      : { width: facts.width * zoom, height: facts.height * zoom };
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <Toolbar label="Picture">
        <Toggle isOn={zoom === 'fit'} onClick={() => setZoom('fit')}>
          Whole
        </Toggle>
        {zooms.map((factor) => (
          <Toggle key={factor} isOn={zoom === factor} onClick={() => setZoom(factor)}>
            {`${factor * 100}%`}
          </Toggle>
        ))}
        <Box sx={{ flex: 1 }} />
        {(Object.keys(grounds) as (keyof typeof grounds)[]).map((option) => (
          <Toggle key={option} isOn={ground === option} onClick={() => setGround(option)}>
            {`On ${option === 'plate' ? 'paper' : option}`}
          </Toggle>
        ))}
      </Toolbar>
      <Box
        tabIndex={0}
        role="region"
        aria-label="Picture"
        sx={{
          flex: 1,
          minHeight: 0,
          overflow: 'auto',
          bgcolor: grounds[ground],
          display: 'flex',
          p: 2,
          '& img': { m: 'auto' },
        }}
      >
        <Box
          component="img"
          src={source}
          alt={`${name}, ${facts.width} by ${facts.height} pixels`}
          sx={{
            ...size,
            flexShrink: zoom === 'fit' ? 1 : 0,
            minHeight: 0,
            objectFit: 'contain',
            imageRendering: typeof zoom === 'number' && zoom > 1 ? 'pixelated' : 'auto',
          }}
        />
      </Box>
    </Box>
  );
}
