import type { Placement } from '../../../contract/facts.ts';
import { roundLength } from '../engine/scale-bar.ts';

const margin = 28;

/** Where things stand on a plan from above. */
export interface Frame {
  pixelsPerMetre: number;
  at(placement: Pick<Placement, 'position'>): [x: number, y: number];
}

export function frameOf(
  placements: readonly Pick<Placement, 'position'>[],
  width: number,
  height: number,
): Frame {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const { position } of placements) {
    left = Math.min(left, position[0]);
    right = Math.max(right, position[0]);
    top = Math.min(top, position[2]);
    bottom = Math.max(bottom, position[2]);
  }
  const pixelsPerMetre = Math.min(
    (width - 2 * margin) / Math.max(right - left, 1e-3),
    (height - 2 * margin) / Math.max(bottom - top, 1e-3),
  );
  const [x0, y0] = [
    width / 2 - ((left + right) / 2) * pixelsPerMetre,
    height / 2 - ((top + bottom) / 2) * pixelsPerMetre,
  ];
  return {
    pixelsPerMetre,
    at: ({ position }) => [x0 + position[0] * pixelsPerMetre, y0 + position[2] * pixelsPerMetre],
  };
}

export function drawGrid(
  context: CanvasRenderingContext2D,
  frame: Frame,
  size: { width: number; height: number },
  rule: string,
  ink: string,
): void {
  const metres = roundLength(120 / frame.pixelsPerMetre);
  const step = metres * frame.pixelsPerMetre;
  context.strokeStyle = rule;
  context.beginPath();
  for (let x = step / 2; x < size.width; x += step) context.rect(x, -1, 0, size.height + 2);
  for (let y = step / 2; y < size.height; y += step) context.rect(-1, y, size.width + 2, 0);
  context.stroke();
  context.fillStyle = ink;
  context.font = '12px sans-serif';
  context.fillText(`one square is ${Number(metres.toPrecision(2))} m`, 12, size.height - 12);
}
