import { useTheme } from '@mui/material';
import { useEffect, useState } from 'react';
import { Color } from 'three';
import type { ModelCanvas } from '../engine/model-canvas.ts';
import { GroundMesh, groundGeometry } from './ground-mesh.ts';
import type { MapWorld } from './map-world.ts';
import type { Ground } from './use-ground.ts';

/**
 * Heights of a side, by what the machine may draw: a machine that draws boxes alone has a coarse ground, too. The shape is made in the
 * page, anew with each number that is typed: more would be felt.
 */
function sideFor(budget: number): number {
  return budget >= 1_000_000 ? 256 : budget > 0 ? 160 : 96;
}

/** Draws the ground of a map in its world. @returns why its picture cannot be shown; empty where nothing is wrong */
export function useGroundMesh(
  canvas: ModelCanvas | null,
  world: MapWorld | null,
  ground: Ground | null,
  budget: number,
): string {
  const { palette } = useTheme();
  // Apart from what stands before and on it: the background, and boxes.
  const colour = `#${new Color(palette.divider).lerp(new Color(palette.text.secondary), 0.3).getHexString()}`;
  const [failure, setFailure] = useState('');
  const side = sideFor(budget);
  const { field, cover } = ground ?? { field: null, cover: null };
  // What is typed makes a new place each time that the page is drawn: its numbers say whether it is another.
  const place = ground ? JSON.stringify([ground.extent, ground.levels]) : '';
  useEffect(() => {
    setFailure('');
    if (!canvas || !world || place === '') return;
    const [extent, levels] = JSON.parse(place) as [Ground['extent'], Ground['levels']];
    const made = new GroundMesh(groundGeometry(field, extent, levels, side), colour);
    world.scene.add(made.mesh);
    canvas.draw();
    if (cover !== null)
      made.cover(cover).then(
        () => canvas.draw(),
        (error: unknown) => setFailure(error instanceof Error ? error.message : String(error)),
      );
    return () => {
      made.close();
      canvas.draw();
    };
  }, [canvas, world, field, cover, place, side, colour]);
  return failure;
}
