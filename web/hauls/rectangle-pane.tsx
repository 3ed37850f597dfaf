import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import ReactCrop, { type PixelCrop } from 'react-image-crop';
import 'react-image-crop/dist/ReactCrop.css';
import type { PlannedFile } from '../../contract/hauls.ts';
import { Empty } from '../ui/states.tsx';
import { shownAddress } from '../viewer/asset-addresses.ts';

/** In pixels of the picture. */
interface Rectangle {
  left: number;
  top: number;
  width: number;
  height: number;
}

/** A rectangle as it stands in the settings; null where none is said. */
function rectangleOf(text: string): Rectangle | null {
  const [left, top, width, height] = text.split(',').map(Number);
  return left === undefined || top === undefined || !width || !height ? null : { left, top, width, height };
}

/** From pixels of the screen to those of the picture, within it. */
function drawnRectangle(
  { x, y, width, height }: Pick<PixelCrop, 'x' | 'y' | 'width' | 'height'>,
  shown: { width: number; height: number },
  own: { width: number; height: number },
): Rectangle | null {
  const [across, down] = [own.width / shown.width, own.height / shown.height];
  const left = Math.max(0, Math.round(x * across));
  const top = Math.max(0, Math.round(y * down));
  const right = Math.min(own.width, Math.round((x + width) * across));
  const bottom = Math.min(own.height, Math.round((y + height) * down));
  return right > left && bottom > top ? { left, top, width: right - left, height: bottom - top } : null;
}

/** Draws over one of the haul's pictures what all of them are cropped to. */
export function RectanglePane({
  pictures,
  channel,
  value,
  onChange,
}: {
  pictures: readonly PlannedFile[];
  channel: number;
  /** As it stands in the settings. */
  value: string;
  onChange: (value: string) => void;
}): ReactNode {
  const [at, setAt] = useState(0);
  const [image, setImage] = useState<HTMLImageElement | null>(null);
  const [isBroken, setIsBroken] = useState(false);
  /** While it is being drawn: it holds when the pointer is let go. */
  const [drawing, setDrawing] = useState<PixelCrop | undefined>();
  const picture = pictures[at] ?? pictures[0];
  if (!picture)
    return <Empty title="The haul has no pictures">Its rectangle is drawn over one of them.</Empty>;
  const kept = rectangleOf(value);
  const own = image && { width: image.naturalWidth, height: image.naturalHeight };
  const shown = image && { width: image.width, height: image.height };
  const crop: PixelCrop | undefined =
    kept && own && shown
      ? {
          unit: 'px',
          x: (kept.left * shown.width) / own.width,
          y: (kept.top * shown.height) / own.height,
          width: (kept.width * shown.width) / own.width,
          height: (kept.height * shown.height) / own.height,
        }
      : undefined;
  // Called with what has no size as well, when drawing begins.
  const take = (drawn: PixelCrop): void => {
    const rectangle = own && shown && drawnRectangle(drawn, shown, own);
    if (!rectangle) return;
    setDrawing(undefined);
    onChange([rectangle.left, rectangle.top, rectangle.width, rectangle.height].join(','));
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2, py: 1, display: 'flex', flexWrap: 'wrap', gap: 1, alignItems: 'center' }}>
        <TextField
          select
          size="small"
          label="Drawn over"
          value={Math.min(at, pictures.length - 1)}
          onChange={({ target }) => {
            setAt(Number(target.value));
            setImage(null);
            setIsBroken(false);
          }}
          sx={{ minWidth: 220, maxWidth: '100%' }}
        >
          {pictures.map(({ path, target }, place) => (
            <MenuItem key={target} value={place} dense>
              {path}
            </MenuItem>
          ))}
        </TextField>
        <Typography role="status" sx={{ flex: 1, minWidth: 200 }}>
          {own
            ? kept
              ? `${kept.width} × ${kept.height} from ${kept.left}, ${kept.top}, of ${own.width} × ${own.height} pixels`
              : `All of ${own.width} × ${own.height} pixels: draw over the picture, or type the numbers at the left`
            : isBroken
              ? 'This picture cannot be shown: choose another one'
              : 'Loading the picture'}
        </Typography>
        <Button disabled={!own} onClick={() => own && onChange(`0,0,${own.width},${own.height}`)}>
          Whole picture
        </Button>
        <Button disabled={value === ''} onClick={() => onChange('')}>
          No rectangle
        </Button>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}>
        <ReactCrop
          crop={drawing ?? crop}
          onChange={setDrawing}
          onComplete={take}
          disabled={!image}
          style={{ maxHeight: '62vh' }}
          ariaLabels={labels}
        >
          <Box
            component="img"
            key={picture.path}
            src={shownAddress(channel, picture.build, picture.path)}
            alt={picture.path}
            onLoad={({ currentTarget }) => setImage(currentTarget)}
            onError={() => setIsBroken(true)}
            sx={{ display: 'block' }}
          />
        </ReactCrop>
      </Box>
    </Box>
  );
}

const labels = {
  cropArea: 'The rectangle: arrow keys move it',
  nwDragHandle: 'Its upper left corner: arrow keys move it',
  nDragHandle: 'Its upper side: arrow keys move it',
  neDragHandle: 'Its upper right corner: arrow keys move it',
  eDragHandle: 'Its right side: arrow keys move it',
  seDragHandle: 'Its lower right corner: arrow keys move it',
  sDragHandle: 'Its lower side: arrow keys move it',
  swDragHandle: 'Its lower left corner: arrow keys move it',
  wDragHandle: 'Its left side: arrow keys move it',
};
