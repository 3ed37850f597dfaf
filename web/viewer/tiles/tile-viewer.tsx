import { Box, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { MapFacts } from '../../../contract/facts.ts';
import { plural } from '../../../core/figures.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { Toolbar } from '../toolbar.tsx';

type Tiles = NonNullable<MapFacts['tiles']>;

/** So far layers stand from each other, as a share of the height of the map. */
const gapShare = 0.28;

/** A map of tiles: its layers over one another as they are seen in the game, or apart; each is switched on and off. */
export default function TileViewer({
  source,
  name,
  tiles,
}: {
  source: string;
  name: string;
  tiles: Tiles;
}): ReactNode {
  const [words, say] = useViewerWords(true);
  const [failed, setFailed] = useState<ReadonlySet<number>>(new Set());
  const { eachLayer } = tiles;
  const said = words.get('nolayer');
  const off =
    said === null
      ? new Set(eachLayer.flatMap(({ isVisible }, at) => (isVisible ? [] : [at])))
      : new Set(said.split(',').filter(Boolean).map(Number));
  const isApart = words.get('layers') === 'apart';
  const toggle = (layer: number): void => {
    const next = new Set(off);
    if (!next.delete(layer)) next.add(layer);
    // All shown is said, too: the file may hide some at first.
    say({ nolayer: next.size === 0 ? ',' : [...next].sort((a, b) => a - b).join(',') });
  };
  const shown = eachLayer.map((layer, at) => ({ ...layer, at })).filter(({ at }) => !off.has(at));
  const ratio = (tiles.width * tiles.tileWidth) / Math.max(1, tiles.height * tiles.tileHeight);
  return (
    <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      {eachLayer.length > 1 && (
        <Toolbar label="Map">
          <Toggle isOn={!isApart} onClick={() => say({ layers: undefined })}>
            From above
          </Toggle>
          <Toggle isOn={isApart} onClick={() => say({ layers: 'apart' })}>
            Layers apart
          </Toggle>
        </Toolbar>
      )}
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: { xs: 'column', sm: 'row' } }}>
        <Box
          sx={{
            ...{ flex: 1, minWidth: 0, minHeight: 220, p: 2, overflow: 'hidden' },
            ...{ display: 'grid', placeItems: 'center', containerType: 'size' },
          }}
        >
          <Box
            role="img"
            aria-label={`${name}, ${eachLayer.length > 1 ? `${shown.length} of ${plural(eachLayer.length, 'layer')}` : 'from above'}`}
            sx={{
              // As large as there is room for, in its own shape.
              ...{ position: 'relative', aspectRatio: ratio, width: `min(100cqw, ${100 * ratio}cqh)` },
              transformStyle: 'preserve-3d',
              transform: isApart ? 'scale(0.62) rotateX(58deg) rotateZ(-32deg)' : 'none',
              transition: 'transform 300ms',
              '@media (prefers-reduced-motion: reduce)': { transition: 'none' },
            }}
          >
            {(eachLayer.length > 1 ? shown : [{ at: -1 }]).map(({ at }, place) => (
              <Box
                key={at}
                component="img"
                src={at < 0 ? source : `${source}?layer=${at + 1}`}
                alt=""
                onError={() => setFailed((before) => new Set(before).add(at))}
                sx={{
                  ...{ position: 'absolute', inset: 0, width: 1, height: 1, imageRendering: 'pixelated' },
                  ...(isApart && {
                    transform: `translateZ(calc(${(place - (shown.length - 1) / 2) * gapShare} * min(100cqh, ${100 / ratio}cqw)))`,
                    outline: 1,
                    outlineColor: 'divider',
                  }),
                }}
              />
            ))}
          </Box>
        </Box>
        {eachLayer.length > 1 && (
          <Box
            component="section"
            aria-label="Layers"
            sx={{
              ...{ width: { xs: 'auto', sm: 230 }, flexShrink: 0, overflow: 'auto', p: 1.5 },
              ...{ bgcolor: 'background.paper', borderLeft: { sm: 1 }, borderTop: { xs: 1, sm: 0 } },
              borderColor: { xs: 'divider', sm: 'divider' },
            }}
          >
            <Typography variant="h2">Layers</Typography>
            {/* The uppermost first, as they lie. */}
            {eachLayer
              .map((layer, at) => (
                <Box key={at}>
                  <FormControlLabel
                    control={<Checkbox size="small" checked={!off.has(at)} onChange={() => toggle(at)} />}
                    label={layer.name || `Layer ${at + 1}`}
                    sx={{ '& .MuiFormControlLabel-label': { overflowWrap: 'anywhere' } }}
                  />
                  <Typography variant="body2" sx={{ pl: 3.5, color: 'text.secondary' }}>
                    {`${plural(layer.set, 'tile')}${layer.isVisible ? '' : ', hidden at first'}${failed.has(at) ? ', could not be drawn' : ''}`}
                  </Typography>
                </Box>
              ))
              .reverse()}
          </Box>
        )}
      </Box>
    </Box>
  );
}
