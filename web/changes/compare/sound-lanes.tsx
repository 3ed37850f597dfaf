import { Box, Typography, useTheme, type Theme } from '@mui/material';
import { useEffect, useRef, type ReactNode } from 'react';
import type { Spectrogram } from './spectrogram-worker.ts';

/** A sound along the line of time, and where in it one is. */
export function Lane({
  label,
  isHeard,
  position,
  onClick,
  children,
}: {
  label: string;
  isHeard: boolean;
  position: number;
  onClick?: () => void;
  children: ReactNode;
}): ReactNode {
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }} onClick={onClick}>
      <Typography variant="caption">{`${label}${isHeard ? ', heard' : ''}`}</Typography>
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          position: 'relative',
          borderTop: 1,
          borderBottom: 1,
          borderColor: isHeard ? 'primary.main' : 'divider',
        }}
      >
        {children}
        <Box
          sx={{
            position: 'absolute',
            top: 0,
            bottom: 0,
            left: `${position * 100}%`,
            borderLeft: 1,
            borderColor: 'primary.main',
          }}
        />
      </Box>
    </Box>
  );
}

/** Where a sound lies on the line of time, in seconds. */
interface Placed {
  begin: number;
  length: number;
  total: number;
}

/** The waveform, what differs in colour. */
export function Wave({
  samples,
  ranges,
  ...placed
}: Placed & { samples: Float32Array; ranges: readonly { from: number; to: number }[] }): ReactNode {
  const { palette } = useTheme();
  const canvas = useCanvas((context, width, height) =>
    drawWave(context, width, height, samples, placed, ranges, palette),
  );
  return <canvas ref={canvas} style={{ position: 'absolute', width: '100%', height: '100%' }} />;
}

/** The spectrogram, darker where it is louder. */
export function Bands({
  spectrogram,
  ...placed
}: Placed & { spectrogram: Spectrogram | undefined }): ReactNode {
  const { palette } = useTheme();
  const canvas = useCanvas((context, width, height) => {
    if (spectrogram) drawBands(context, width, height, spectrogram, placed, palette);
  });
  return (
    <>
      <canvas ref={canvas} style={{ position: 'absolute', width: '100%', height: '100%' }} />
      {!spectrogram && <Typography role="status">listening …</Typography>}
    </>
  );
}

/** A canvas that is drawn after every rendering, at the size that it has. */
function useCanvas(
  draw: (context: CanvasRenderingContext2D, width: number, height: number) => void,
): React.RefObject<HTMLCanvasElement | null> {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    const element = canvas.current;
    const context = element?.getContext('2d');
    if (!element || !context) return;
    const [width, height] = [element.clientWidth, element.clientHeight];
    if (element.width !== width || element.height !== height)
      [element.width, element.height] = [width, height];
    context.clearRect(0, 0, width, height);
    draw(context, width, height);
  });
  return canvas;
}

function drawWave(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  samples: Float32Array,
  { begin, length, total }: Placed,
  ranges: readonly { from: number; to: number }[],
  palette: Theme['palette'],
): void {
  for (let x = 0; x < width; x++) {
    const seconds = (x / width) * total - begin;
    const from = Math.floor((seconds / length) * samples.length);
    const to = Math.min(samples.length, Math.ceil(from + (total / width / length) * samples.length));
    if (from < 0 || from >= samples.length) continue;
    let [low, high] = [0, 0];
    // Of long stretches every n-th sample: what stands out stands out in these too.
    const step = Math.max(1, Math.floor((to - from) / 200));
    for (let at = from; at < to; at += step) {
      low = Math.min(low, samples[at] ?? 0);
      high = Math.max(high, samples[at] ?? 0);
    }
    const isOther = ranges.some((range) => seconds >= range.from && seconds <= range.to);
    context.fillStyle = isOther ? palette.primary.main : palette.text.primary;
    context.fillRect(x, (height / 2) * (1 - high), 1, Math.max(1, (height / 2) * (high - low)));
  }
}

function drawBands(
  context: CanvasRenderingContext2D,
  width: number,
  height: number,
  spectrogram: Spectrogram,
  { begin, length, total }: Placed,
  palette: Theme['palette'],
): void {
  const image = new ImageData(spectrogram.width, spectrogram.height);
  const ink = [0, 1, 2].map((part) => parseInt(palette.text.primary.slice(1 + part * 2, 3 + part * 2), 16));
  spectrogram.values.forEach((value, at) => {
    ink.forEach((part, channel) => (image.data[at * 4 + channel] = part));
    image.data[at * 4 + 3] = value;
  });
  const sheet = new OffscreenCanvas(spectrogram.width, spectrogram.height);
  sheet.getContext('2d')?.putImageData(image, 0, 0);
  context.drawImage(sheet, (begin / total) * width, 0, (length / total) * width, height);
}
