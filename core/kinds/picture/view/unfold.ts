import type { Pixels } from '../picture.ts';

/** Where the sides of a cube lie in its unfolded picture, four across and three down: +X, −X, +Y, −Y, +Z, −Z. */
const places = [
  [2, 1],
  [0, 1],
  [1, 0],
  [1, 2],
  [1, 1],
  [3, 1],
] as const;

/** The six sides of a cube as one picture, as one would cut it out of paper; the corners are clear. */
export function unfoldedSides(sides: readonly Pixels[]): Pixels {
  const [first] = sides;
  if (!first) throw new Error('unfoldedSides: no sides');
  const { width, height, data } = first;
  const all = new (data.constructor as new (length: number) => typeof data)(width * 4 * height * 3 * 4);
  sides.forEach((side, at) => {
    const [column, row] = places[at] ?? places[0];
    for (let y = 0; y < height; y++)
      all.set(
        side.data.subarray(y * width * 4, (y + 1) * width * 4),
        ((row * height + y) * width * 4 + column * width) * 4,
      );
  });
  return { width: width * 4, height: height * 3, data: all };
}
