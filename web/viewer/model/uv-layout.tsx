import { Box, Button, useTheme } from '@mui/material';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { plural } from '../../../core/figures.ts';
import { uvLayoutOf, type UvLayout } from '../../../core/kinds/model/parts/uv-layout.ts';
import type { ModelCanvas } from '../engine/model-canvas.ts';
import { save } from '../../ui/save.ts';

const side = 2048;
const edgesAtOnce = 40_000;
/** More tiles than these are not looked at. */
const mostTiles = 8;

/** How the parts of a material lie on their pictures: over the base colour, with what reaches beyond. */
export function UvLayoutPane({
  canvas,
  parts,
  name,
  onClose,
}: {
  canvas: ModelCanvas;
  parts: readonly number[];
  name: string;
  onClose: () => void;
}): ReactNode {
  const { palette } = useTheme();
  const drawing = useRef<HTMLCanvasElement>(null);
  const layout = useMemo(
    () =>
      uvLayoutOf(
        canvas.shapesOf(parts).flatMap(({ attributes, index }) => {
          const uv = attributes.uv;
          if (!uv) return [];
          const uvs = new Float32Array(uv.count * 2);
          for (let at = 0; at < uv.count; at++) uvs.set([uv.getX(at), uv.getY(at)], at * 2);
          return [{ uvs, indices: index?.array ?? null }];
        }),
      ),
    [canvas, parts],
  );
  const tiles = useMemo(() => tilesOf(layout), [layout]);
  const tile = Math.floor(side / Math.max(tiles.across, tiles.down));
  const { primary, text, background, divider } = palette;
  useEffect(() => {
    const context = drawing.current?.getContext('2d');
    if (!context) return;
    const image = canvas.pictureOf(parts);
    let frame = 0;
    let at = 0;
    const toX = (u: number): number => (u - tiles.left) * tile;
    const toY = (v: number): number => (v - tiles.top) * tile;
    context.fillStyle = background.paper;
    context.fillRect(0, 0, tiles.across * tile, tiles.down * tile);
    if (image) {
      context.globalAlpha = 0.6;
      context.drawImage(image, toX(0), toY(0), toX(1) - toX(0), toY(1) - toY(0));
      context.globalAlpha = 1;
    }
    context.strokeStyle = divider;
    context.lineWidth = 2;
    for (let at = 0; at <= tiles.across; at++) context.strokeRect(at * tile, 0, 0, side);
    for (let at = 0; at <= tiles.down; at++) context.strokeRect(0, at * tile, side, 0);
    context.strokeStyle = primary.main;
    context.lineWidth = layout.triangles > 50_000 ? 0.5 : 1.5;
    const draw = (): void => {
      context.beginPath();
      const end = Math.min(layout.edges.length, at + edgesAtOnce * 4);
      for (; at < end; at += 4) {
        context.moveTo(toX(layout.edges[at] ?? 0), toY(layout.edges[at + 1] ?? 0));
        context.lineTo(toX(layout.edges[at + 2] ?? 0), toY(layout.edges[at + 3] ?? 0));
      }
      context.stroke();
      // A million lines come a part at a time, so that the page goes on.
      frame = at < layout.edges.length ? requestAnimationFrame(draw) : 0;
      if (frame === 0) {
        context.strokeStyle = text.primary;
        context.lineWidth = 3;
        context.strokeRect(toX(0), toY(0), toX(1) - toX(0), toY(1) - toY(0));
      }
    };
    draw();
    return () => cancelAnimationFrame(frame);
  }, [canvas, parts, layout, tiles, tile, background.paper, divider, primary.main, text.primary]);
  const called = name === '' ? 'a material without a name' : name;
  return (
    <Box
      component="section"
      aria-label={`UV layout of ${called}`}
      onKeyDown={({ key }) => key === 'Escape' && onClose()}
      sx={{
        ...{ position: 'absolute', inset: 0, zIndex: 2, bgcolor: 'plate', p: 1.5, gap: 1 },
        ...{ display: 'flex', flexDirection: 'column', minWidth: 0 },
      }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
        <Box role="status" sx={{ flex: 1, minWidth: 160, fontSize: '0.9rem' }}>
          {layout.triangles === 0 ? `${called} has no UVs.` : `${called}: ${layoutText(layout)}`}
        </Box>
        <Button
          disabled={layout.triangles === 0}
          onClick={() =>
            drawing.current?.toBlob((blob) => blob && save(blob, `${name || 'material'}-uv.png`))
          }
        >
          Save picture
        </Button>
        <Button autoFocus onClick={onClose}>
          Back to the model
        </Button>
      </Box>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', alignItems: 'center', justifyContent: 'center' }}>
        <canvas
          ref={drawing}
          width={tiles.across * tile}
          height={tiles.down * tile}
          role="img"
          aria-label={`Triangles of ${called} on their picture`}
          style={{ maxWidth: '100%', maxHeight: '100%' }}
        />
      </Box>
    </Box>
  );
}

/** What the layout is, in a sentence. */
export function layoutText({ triangles, outside, coverage }: UvLayout): string {
  return [
    plural(triangles, 'triangle'),
    `they cover ${Math.round(coverage * 100).toLocaleString('en')} % of the picture${coverage > 1.005 ? ', some of it more than once' : ''}`,
    outside > 0 ? `${outside.toLocaleString('en')} reach beyond it` : '',
  ]
    .filter(Boolean)
    .join('; ');
}

/** Whole tiles around all that is laid out. */
function tilesOf({ min, max }: UvLayout): { left: number; top: number; across: number; down: number } {
  const [left, top] = [Math.max(Math.floor(min[0]), -mostTiles), Math.max(Math.floor(min[1]), -mostTiles)];
  const span = (from: number, to: number): number => Math.min(Math.max(Math.ceil(to) - from, 1), mostTiles);
  return { left, top, across: span(left, max[0]), down: span(top, max[1]) };
}
