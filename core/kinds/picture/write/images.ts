import type { PictureFacts } from '../../../../contract/facts.ts';
import { asItLay, type PictureSettings } from '../../../../contract/haul-settings.ts';
import type { ImagePlace } from '../picture.ts';

/** Images of one picture that are files of their own; more would be a mistake of the file. */
const mostImages = 4096;
const faceNames = ['+x', '-x', '+y', '-y', '+z', '-z'] as const;
export const pictureEndings = { png: '.png', tga: '.tga', webp: '.webp', jpeg: '.jpg', exr: '.exr' } as const;
export type PictureFormat = keyof typeof pictureEndings;

type Images = Pick<PictureFacts, 'levels' | 'layers' | 'faces' | 'depth' | 'frames'>;

/**
 * Which images of a picture become files, and what each is called behind the stem: layers, sides, slices and frames are files of
 * their own, mip levels where they are asked for.
 */
export function imagesToWrite(
  { levels, layers, faces, depth, frames }: Images,
  settings: PictureSettings,
): { place: ImagePlace; ending: string }[] {
  const extension = settings.as === asItLay ? '' : pictureEndings[settings.as];
  const images: { place: ImagePlace; ending: string }[] = [];
  const most = settings.levels === 'all' ? levels : 1;
  for (let level = 0; level < most; level++)
    for (let layer = 0; layer < layers; layer++)
      for (let face = 0; face < faces; face++)
        for (let slice = 0; slice < Math.max(1, depth >> level); slice++)
          for (let frame = 0; frame < frames; frame++) {
            if (images.length >= mostImages) return images;
            const parts = [
              ...(level > 0 ? [`level-${level}`] : []),
              ...(layers > 1 ? [`layer-${layer}`] : []),
              ...(faces > 1 ? [`side${faceNames[face] ?? face}`] : []),
              ...(depth > 1 ? [`slice-${slice}`] : []),
              ...(frames > 1 ? [`frame-${String(frame).padStart(String(frames - 1).length, '0')}`] : []),
            ];
            images.push({
              place: { level, layer, face, slice, frame },
              ending: `${parts.map((part) => `.${part}`).join('')}${extension}`,
            });
          }
  return images;
}

/** What a format cannot hold of a picture. */
export function lossesOfPicture(
  { hasAlpha, bitsPerChannel, frames }: Pick<PictureFacts, 'hasAlpha' | 'bitsPerChannel' | 'frames'>,
  isLight: boolean,
  settings: PictureSettings,
): string[] {
  const { as } = settings;
  if (as === asItLay) return [];
  return [
    ...(as === 'jpeg' ? ['the exact pixels'] : []),
    ...(hasAlpha && as === 'jpeg' ? ['alpha'] : []),
    ...(bitsPerChannel > 8 && as !== 'png' && as !== 'exr' ? ['more than 8 bits a channel'] : []),
    ...(isLight && as !== 'exr' ? ['light brighter than white'] : []),
    ...(frames > 1 ? ['frames in one file'] : []),
  ];
}
