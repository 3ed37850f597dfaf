import type { Picture, Pixels } from '../picture.ts';

/** A picture that holds one image and no more, which is decoded when it is asked for. */
export function singleImage(
  facts: Omit<Picture, 'depth' | 'levels' | 'layers' | 'faces' | 'frames' | 'image'> & { frames?: number },
  decode: () => Pixels['data'] | Promise<Pixels['data']>,
): Picture {
  const { width, height } = facts;
  return {
    frames: 1,
    ...facts,
    depth: 1,
    levels: 1,
    layers: 1,
    faces: 1,
    image: async () => ({ width, height, data: await decode() }),
  };
}

const largestSide = 65_536;
/** Beyond it a picture is told of and not decoded: its pixels alone would take a gibibyte. */
export const mostPixels = 2 ** 28;

/**
 * @param images layers, sides and slices, which are all decoded
 * @returns what is wrong with a size, null where nothing is
 */
export function sizeProblem(width: number, height: number, images = 1): string | null {
  if (width < 1 || height < 1) return `a size of ${width} x ${height} pixels`;
  if (width > largestSide || height > largestSide || width * height > mostPixels)
    return `a size of ${width} x ${height} pixels, which is more than is decoded`;
  if (width * height * images > mostPixels)
    return `${images} images of ${width} x ${height} pixels, which is more than is decoded`;
  return null;
}
