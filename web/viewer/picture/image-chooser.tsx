import { MenuItem, TextField } from '@mui/material';
import type { ReactNode } from 'react';
import type { PictureFacts } from '../../../contract/facts.ts';

/** Which of a picture's images is looked at. */
export interface ImageChoice {
  level: number;
  layer: number;
  face: number;
  slice: number;
  frame: number;
}

export const firstImage: ImageChoice = { level: 0, layer: 0, face: 0, slice: 0, frame: 0 };

/** Sides of a cube in the order in which the formats keep them. */
const sides = ['+X', '−X', '+Y', '−Y', '+Z', '−Z'];

/** Chooses among mips, layers, sides, slices and frames; shows nothing where a picture has one image. */
export function ImageChooser({
  facts,
  chosen,
  onChoose,
}: {
  facts: PictureFacts;
  chosen: ImageChoice;
  onChoose: (choice: ImageChoice) => void;
}): ReactNode {
  const sizeOf = (level: number): string =>
    `${Math.max(1, facts.width >> level)} × ${Math.max(1, facts.height >> level)}`;
  const choices: [keyof ImageChoice, string, number, (at: number) => string][] = [
    ['level', 'Mip', facts.levels, (at) => `${at}, ${sizeOf(at)}`],
    ['layer', 'Layer', facts.layers, String],
    ['face', 'Side', facts.faces, (at) => sides[at] ?? String(at)],
    ['slice', 'Slice', Math.max(1, facts.depth >> chosen.level), String],
    ['frame', 'Frame', facts.frames, String],
  ];
  return choices
    .filter(([, , count]) => count > 1)
    .map(([key, label, count, nameOf]) => (
      <TextField
        key={key}
        select
        variant="standard"
        label={label}
        value={Math.min(chosen[key], count - 1)}
        onChange={({ target }) => onChoose({ ...chosen, [key]: Number(target.value) })}
        sx={{ minWidth: 76 }}
      >
        {Array.from({ length: count }, (_, at) => (
          <MenuItem key={at} value={at}>
            {nameOf(at)}
          </MenuItem>
        ))}
      </TextField>
    ));
}
