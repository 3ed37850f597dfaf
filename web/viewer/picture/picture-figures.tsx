import { Box, Button, Typography, useTheme } from '@mui/material';
import { useMemo, type ReactNode } from 'react';
import { plural } from '../../../core/figures.ts';
import type { Histogram } from '../../../core/kinds/picture/view/figures-of-pixels.ts';
import type { LoadedPicture } from './picture-worker.ts';
import type { PixelValue } from './use-picture.ts';

const channelNames = ['Red', 'Green', 'Blue', 'Alpha'] as const;

/** What a picture is made of: the value under the pointer, how often each comes, and what cropping would leave. */
export function PictureFigures({
  picture,
  value,
  isCropShown,
  onCrop,
}: {
  picture: LoadedPicture;
  value: PixelValue | null;
  isCropShown: boolean;
  onCrop: (isShown: boolean) => void;
}): ReactNode {
  const { crop, histogram, bits } = picture;
  return (
    <Box
      component="section"
      aria-label="Figures of the picture"
      sx={{
        ...{
          width: { xs: 'auto', sm: 216 },
          flexShrink: 0,
          overflow: 'auto',
          p: 1,
          display: 'grid',
          gap: 1.5,
        },
        ...{ alignContent: 'start', bgcolor: 'background.paper' },
        ...{
          borderLeft: { sm: 1 },
          borderTop: { xs: 1, sm: 0 },
          borderColor: { xs: 'divider', sm: 'divider' },
        },
      }}
    >
      <Box sx={{ minHeight: 92, fontVariantNumeric: 'tabular-nums' }}>
        <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
          Under the pointer
        </Typography>
        {value ? (
          <>
            <Typography variant="body2">{`at ${value.x.toLocaleString('en')}, ${value.y.toLocaleString('en')}`}</Typography>
            {channelNames.map((name, at) => (
              <Typography key={name} variant="body2" component="div" sx={{ display: 'flex' }}>
                <Box component="span" sx={{ width: 64, color: 'text.secondary' }}>
                  {name}
                </Box>
                <span className="path">{valueText(value.values[at] ?? 0, bits)}</span>
              </Typography>
            ))}
          </>
        ) : (
          <Typography variant="body2" color="text.secondary">
            Point at a pixel.
          </Typography>
        )}
      </Box>
      <Box>
        <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
          Values
        </Typography>
        {channelNames.map((name, at) => (
          <ChannelCounts key={name} name={name} channel={at} histogram={histogram} bits={bits} />
        ))}
        {!picture.isWhole && (
          <Typography variant="body2" color="text.secondary">
            Of the picture made smaller.
          </Typography>
        )}
      </Box>
      <Box>
        <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
          Frame
        </Typography>
        <Typography variant="body2">
          {crop
            ? `Cropping would leave ${crop.width.toLocaleString('en')} × ${crop.height.toLocaleString('en')}, from ${crop.left.toLocaleString('en')}, ${crop.top.toLocaleString('en')}.`
            : 'Cropping would leave all of it.'}
        </Typography>
        {crop && (
          <Button size="small" onClick={() => onCrop(!isCropShown)}>
            {isCropShown ? 'Hide the frame' : 'Show the frame'}
          </Button>
        )}
      </Box>
    </Box>
  );
}

function valueText(value: number, bits: LoadedPicture['bits']): string {
  if (bits === 32) return Number(value.toPrecision(5)).toString();
  const share = value / (bits === 16 ? 65535 : 255);
  return `${value.toLocaleString('en')} (${share.toFixed(3)})`;
}

const [plotWidth, plotHeight] = [192, 34];

function ChannelCounts({
  name,
  channel,
  histogram: { counts, ranges, pixels },
  bits,
}: {
  name: string;
  channel: number;
  histogram: Histogram;
  bits: LoadedPicture['bits'];
}): ReactNode {
  const { palette } = useTheme();
  const list = counts[channel];
  const line = useMemo(() => {
    if (!list) return '';
    // The highest but one: a ground of one colour leaves the rest of the picture to be seen.
    const sorted = [...list].sort((a, b) => b - a);
    const top = Math.max(1, sorted[1] ?? 0);
    return [...list]
      .map((count, at) => {
        const x = (at / 255) * plotWidth;
        const y = plotHeight - Math.min(1, Math.sqrt(count / top)) * plotHeight;
        return `${at === 0 ? 'M' : 'L'}${x.toFixed(1)} ${y.toFixed(1)}`;
      })
      .join('');
  }, [list]);
  const [least = 0, greatest = 0] = ranges[channel] ?? [];
  const says = `${name}: ${valueRange(least, bits)} to ${valueRange(greatest, bits)}`;
  return (
    <Box>
      <Typography variant="body2" sx={{ fontVariantNumeric: 'tabular-nums' }}>
        {least === greatest ? `${name}: ${valueRange(least, bits)} everywhere` : says}
      </Typography>
      {least !== greatest && (
        <svg
          width={plotWidth}
          height={plotHeight}
          role="img"
          aria-label={`${says}, of ${plural(pixels, 'pixel')}`}
          style={{ display: 'block' }}
        >
          <path
            d={`${line}L${plotWidth} ${plotHeight}L0 ${plotHeight}Z`}
            fill={palette.text.primary}
            fillOpacity={0.28}
            stroke={palette.text.primary}
            strokeWidth={0.75}
          />
        </svg>
      )}
    </Box>
  );
}

function valueRange(value: number, bits: LoadedPicture['bits']): string {
  return bits === 32 ? Number(value.toPrecision(4)).toString() : value.toLocaleString('en');
}
