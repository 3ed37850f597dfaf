import { Box, Typography, useTheme } from '@mui/material';
import { useEffect, useRef, type ReactNode } from 'react';
import { secondsText } from '../../../core/figures.ts';
import type { ToneLevels } from '../../../core/kinds/sound/view/lanes.ts';

/** A place on the line of time that is marked: a loop, or a cue. */
export interface Mark {
  label: string;
  from: number;
  to: number;
}

/** One way of seeing a sound along the line of time. */
export function Lane({
  label,
  seconds,
  position,
  marks = [],
  height,
  onSeek,
  draw,
}: {
  label: string;
  seconds: number;
  position: number;
  marks?: readonly Mark[];
  height: number;
  onSeek: (seconds: number) => void;
  draw: (context: CanvasRenderingContext2D, width: number, height: number, ink: string) => void;
}): ReactNode {
  const { palette } = useTheme();
  const canvas = useRef<HTMLCanvasElement>(null);
  const ink = palette.text.primary;
  useEffect(() => {
    const element = canvas.current;
    if (!element) return;
    const paint = (): void => {
      const ratio = Math.min(2, window.devicePixelRatio);
      element.width = Math.max(1, Math.round(element.clientWidth * ratio));
      element.height = Math.max(1, Math.round(element.clientHeight * ratio));
      const context = element.getContext('2d');
      if (context) draw(context, element.width, element.height, ink);
    };
    const observer = new ResizeObserver(paint);
    observer.observe(element);
    return () => observer.disconnect();
  }, [draw, ink]);
  const share = (at: number): string => `${(100 * at) / Math.max(seconds, 1e-9)}%`;
  return (
    <Box>
      <Typography variant="caption">{label}</Typography>
      <Box
        onClick={({ currentTarget, clientX }) => {
          const { left, width } = currentTarget.getBoundingClientRect();
          onSeek(((clientX - left) / width) * seconds);
        }}
        sx={{ position: 'relative', height, borderTop: 1, borderBottom: 1, borderColor: 'divider' }}
      >
        <canvas
          ref={canvas}
          role="img"
          aria-label={`${label}, ${secondsText(seconds)}`}
          style={{ position: 'absolute', width: '100%', height: '100%' }}
        />
        {marks.map(({ label: name, from, to }, at) => (
          <Box
            key={`${at} ${name}`}
            sx={{
              ...{ position: 'absolute', top: 0, bottom: 0, left: share(from), width: share(to - from) },
              ...{ borderLeft: 2, borderRight: to > from ? 2 : 0, borderColor: 'primary.main' },
              pointerEvents: 'none',
            }}
          >
            <Typography variant="caption" sx={{ bgcolor: 'background.paper', px: 0.5, whiteSpace: 'nowrap' }}>
              {name}
            </Typography>
          </Box>
        ))}
        <Box
          sx={{ position: 'absolute', top: 0, bottom: 0, borderLeft: 1, borderColor: 'primary.main' }}
          style={{ left: share(position) }}
        />
      </Box>
    </Box>
  );
}

export function drawExtremes(
  extremes: ArrayLike<number>,
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  ink: string,
): void {
  const slices = extremes.length / 2;
  context.fillStyle = ink;
  for (let x = 0; x < width; x++) {
    const [from, to] = [Math.floor((x / width) * slices), Math.ceil(((x + 1) / width) * slices)];
    let [low, high] = [Infinity, -Infinity];
    for (let slice = from; slice < Math.max(from + 1, to); slice++) {
      low = Math.min(low, extremes[slice * 2] ?? 0);
      high = Math.max(high, extremes[slice * 2 + 1] ?? 0);
    }
    context.fillRect(x, (height / 2) * (1 - high), 1, Math.max(1, (height / 2) * (high - low)));
  }
}

export function drawTones(
  { width: columns, height: rows, values }: ToneLevels,
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  ink: string,
): void {
  const image = new ImageData(columns, rows);
  const colour = [0, 1, 2].map((part) => parseInt(ink.slice(1 + part * 2, 3 + part * 2), 16));
  values.forEach((value, at) => {
    colour.forEach((part, channel) => (image.data[at * 4 + channel] = part));
    // What is loud is seen; the lower third of the range is hardly heard.
    image.data[at * 4 + 3] = Math.max(0, (value - 85) * 1.5);
  });
  const sheet = new OffscreenCanvas(columns, rows);
  sheet.getContext('2d')?.putImageData(image, 0, 0);
  context.drawImage(sheet, 0, 0, width, height);
}

/** Loudness over time, from −60 LUFS at the bottom to 0 on top. */
export function drawLoudness(
  momentary: Float32Array,
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  ink: string,
): void {
  context.strokeStyle = ink;
  context.lineWidth = Math.max(1, height / 40);
  context.beginPath();
  momentary.forEach((lufs, at) => {
    const x = momentary.length < 2 ? 0 : (at / (momentary.length - 1)) * width;
    const y = Math.min(1, Math.max(0, -lufs / 60)) * height;
    if (at === 0) context.moveTo(x, y);
    else context.lineTo(x, y);
  });
  if (momentary.length === 1)
    context.lineTo(width, Math.min(1, Math.max(0, -(momentary[0] ?? 0) / 60)) * height);
  context.stroke();
}
