import type { Raster } from '../../reading.ts';
import { ciede2000, writeLab, type Lab } from './colour-difference.ts';

/** Side of the areas that an eye takes together (common practice for pictures on a screen, no published source). */
const side = 4;
/** Two areas with less between them cannot be told apart: a just noticeable difference of CIELAB (Mahy et al., 1994). */
const justNoticeable = 2.3;
const mostAreas = 8192;

/** Share of the areas of two pictures of one size whose mean colours are seen to differ; of many, some spread evenly. */
export function seenShare(old: Raster, now: Raster): number {
  const { width, height } = now;
  const [across, down] = [Math.max(1, Math.floor(width / side)), Math.max(1, Math.floor(height / side))];
  const every = Math.max(1, Math.floor((across * down) / mostAreas));
  const labs = new Float64Array(6);
  let [seen, count] = [0, 0];
  // A step without a common factor with a row goes over all columns.
  const step = every > 1 && across % every === 0 ? every + 1 : every;
  for (let area = 0; area < across * down; area += step) {
    const [x, y] = [(area % across) * side, Math.floor(area / across) * side];
    writeMean(old, x, y, labs, 0);
    writeMean(now, x, y, labs, 3);
    count++;
    if (ciede2000(labOf(labs, 0), labOf(labs, 3)) > justNoticeable) seen++;
  }
  return count === 0 ? 0 : seen / count;
}

/** Mean of an area over mid grey: a change of alpha is seen as far as it lets something through. */
function writeMean(
  { width, height, rgba }: Raster,
  left: number,
  top: number,
  to: Float64Array,
  at: number,
): void {
  let [red, green, blue, count] = [0, 0, 0, 0];
  for (let y = top; y < Math.min(height, top + side); y++)
    for (
      let place = (y * width + left) * 4;
      place < (y * width + Math.min(width, left + side)) * 4;
      place += 4
    ) {
      const alpha = (rgba[place + 3] ?? 0) / 255;
      const grey = 128 * (1 - alpha);
      red += (rgba[place] ?? 0) * alpha + grey;
      green += (rgba[place + 1] ?? 0) * alpha + grey;
      blue += (rgba[place + 2] ?? 0) * alpha + grey;
      count++;
    }
  writeLab(Math.round(red / count), Math.round(green / count), Math.round(blue / count), to, at);
}

function labOf(labs: Float64Array, at: number): Lab {
  return [labs[at] ?? 0, labs[at + 1] ?? 0, labs[at + 2] ?? 0];
}
