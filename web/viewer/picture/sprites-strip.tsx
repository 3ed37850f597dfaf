import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import type { SpriteFrame, SpriteTables } from '../../../contract/sprites.ts';
import { plural } from '../../../core/figures.ts';
import { nameOf } from '../../ui/path-text.tsx';

/** More frames than these are looked at on the picture itself. */
const mostShown = 400;
const boxPixels = 64;
const framesPerSecond = 10;

/** Frames that a table cuts a picture into, one beside the other, played in their order. */
export function SpritesStrip({
  tables,
  source,
  width,
  height,
  shown,
  onShow,
}: {
  tables: SpriteTables;
  /** The picture as browsers show it. */
  source: string;
  width: number;
  height: number;
  /** Name of the frame that is marked. */
  shown: string | null;
  onShow: (frame: SpriteFrame | null) => void;
}): ReactNode {
  const [at, setAt] = useState(0);
  const [isPlaying, setPlaying] = useState(false);
  const table = tables[at] ?? tables[0];
  const frames = table?.frames ?? [];
  const place = frames.findIndex(({ name }) => name === shown);
  const next = frames[(place + 1) % Math.max(1, frames.length)];
  useEffect(() => {
    if (!isPlaying || !next) return;
    const timer = setTimeout(() => onShow(next), 1000 / framesPerSecond);
    return () => clearTimeout(timer);
  }, [isPlaying, next, onShow]);
  if (!table) return null;
  return (
    <Box
      component="section"
      aria-label="Frames of the table"
      sx={{ bgcolor: 'background.paper', borderTop: 1, borderColor: 'divider', flexShrink: 0 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1, flexWrap: 'wrap' }}>
        {tables.length > 1 && (
          <TextField
            select
            variant="standard"
            size="small"
            value={at}
            onChange={({ target }) => setAt(Number(target.value))}
            slotProps={{ htmlInput: { 'aria-label': 'Table' }, select: { 'aria-label': 'Table' } }}
          >
            {tables.map(({ path }, index) => (
              <MenuItem key={path} value={index}>
                {path}
              </MenuItem>
            ))}
          </TextField>
        )}
        <Typography variant="body2" sx={{ flex: 1 }} title={table.path}>
          {`${plural(frames.length, 'frame')} of ${nameOf(table.path)}: ${table.why}${table.outside > 0 ? `; ${table.outside} lie beyond the picture` : ''}`}
        </Typography>
        <Button size="small" onClick={() => setPlaying(!isPlaying)}>
          {isPlaying ? 'Pause the frames' : 'Play the frames'}
        </Button>
      </Box>
      <Box role="group" aria-label="Frames" sx={{ display: 'flex', gap: 0.5, overflowX: 'auto', p: 0.5 }}>
        {frames.slice(0, mostShown).map((frame, index) => (
          <Button
            key={`${index} ${frame.name}`}
            aria-pressed={index === place}
            title={`${frame.name}: ${frame.width} × ${frame.height} at ${frame.left}, ${frame.top}`}
            aria-label={frame.name || `Frame ${index + 1}`}
            onClick={() => onShow(index === place ? null : frame)}
            sx={{
              ...{ p: 0.25, minWidth: 0, flexShrink: 0, borderRadius: 0, borderBottom: 2 },
              borderColor: index === place ? 'primary.main' : 'transparent',
            }}
          >
            <Cut {...{ frame, source, width, height }} />
          </Button>
        ))}
      </Box>
    </Box>
  );
}

/** A rectangle of a picture, and nothing of what stands beside it. */
function Cut({
  frame,
  source,
  width,
  height,
}: {
  frame: SpriteFrame;
  source: string;
  width: number;
  height: number;
}): ReactNode {
  const [across, down] = frame.isTurned ? [frame.height, frame.width] : [frame.width, frame.height];
  const scale = boxPixels / Math.max(across, down);
  return (
    <Box
      sx={{
        ...{ width: boxPixels, height: boxPixels, display: 'grid', placeItems: 'center', bgcolor: 'plate' },
        overflow: 'hidden',
      }}
    >
      <Box
        style={{
          width: across * scale,
          height: down * scale,
          backgroundImage: `url("${source}")`,
          backgroundSize: `${width * scale}px ${height * scale}px`,
          backgroundPosition: `${-frame.left * scale}px ${-frame.top * scale}px`,
          imageRendering: scale > 2 ? 'pixelated' : 'auto',
          transform: frame.isTurned ? 'rotate(-90deg)' : 'none',
        }}
      />
    </Box>
  );
}
