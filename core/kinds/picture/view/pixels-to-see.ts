import type { Picture, ImagePlace } from '../picture.ts';
import { shrink } from '../shrink.ts';
import { cutRegion, packPixels, type PixelRegion } from './pixel-bytes.ts';
import { halved } from './pyramid.ts';

/** Pixels of a side that are sent at once: larger pictures come smaller, and part by part where somebody looks closely. */
export const mostPixelsSent = 4096;

/** An image of a picture as its numbers are stored; of a part of it, or of all, smaller where it is large. @throws ReadError */
export async function pixelsToSee(
  picture: Picture,
  place: ImagePlace,
  region: PixelRegion | null,
): Promise<Uint8Array> {
  const whole = await picture.image(place);
  const { width: fullWidth, height: fullHeight } = whole;
  if (region) {
    const pixels = cutRegion(whole, region);
    const { width, height } = pixels;
    const left = Math.min(fullWidth - 1, region.left);
    const top = Math.min(fullHeight - 1, region.top);
    return packPixels({ pixels, region: { left, top, width, height }, fullWidth, fullHeight });
  }
  let pixels = whole;
  if (pixels.data instanceof Uint8Array) {
    const { rgba, width, height } = shrink(pixels, mostPixelsSent);
    pixels = { width, height, data: rgba };
  }
  while (Math.max(pixels.width, pixels.height) > mostPixelsSent) pixels = halved(pixels);
  const all = { left: 0, top: 0, width: fullWidth, height: fullHeight };
  return packPixels({ pixels, region: all, fullWidth, fullHeight });
}
