import { Box } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { PictureFacts } from '../../contract/facts.ts';
import { Toggle } from '../ui/toggle.tsx';
import { ImageChooser, firstImage } from './image-chooser.tsx';
import { Toolbar } from './toolbar.tsx';

const zooms = [0.25, 0.5, 1, 2, 4, 8] as const;
const grounds = { plate: 'plate', light: '#ffffff', dark: '#101010' } as const;

/** A picture on its plate, at a scale that is known, on a ground that shows its alpha. */
export function PictureViewer({
  source,
  isChoosable = false,
  facts,
  name,
}: {
  source: string;
  /** Whether the source gives other images than the first when it is asked for them. */
  isChoosable?: boolean;
  facts: PictureFacts;
  name: string;
}): ReactNode {
  const [zoom, setZoom] = useState<number | 'fit'>('fit');
  const [ground, setGround] = useState<keyof typeof grounds>('plate');
  const [image, setImage] = useState(firstImage);
  const address = isChoosable
    ? `${source}?${new URLSearchParams(Object.entries(image).map(([key, at]) => [key, String(at)]))}`
    : source;
  const size =
    zoom === 'fit'
      ? { maxWidth: '100%', maxHeight: '100%' }
      : { width: (facts.width >> image.level) * zoom, height: (facts.height >> image.level) * zoom };
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
        {isChoosable && <ImageChooser facts={facts} chosen={image} onChoose={setImage} />}
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
          src={address}
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
