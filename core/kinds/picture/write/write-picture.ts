import type { PictureSettings } from '../../../../contract/haul-settings.ts';
import { asItLay } from '../../../../contract/haul-settings.ts';
import type { Platform, ReadRequest } from '../../reading.ts';
import type { MadeFile, Proof, Written } from '../../writing.ts';
import { openPicture, pictureOf } from '../open.ts';
import type { Pixels } from '../picture.ts';
import { cropped, frameWithoutBorder, type Frame } from '../mend/crop.ts';
import { scaled, scaledSize } from '../mend/scale.ts';
import { denoised, withoutBands } from '../mend/smooth.ts';
import { asLight, withBits, withGreenTurned } from './depth.ts';
import { imagesToWrite, lossesOfPicture, pictureEndings, type PictureFormat } from './images.ts';
import { proofOfPixels } from './likeness.ts';
import { decodePng } from './decode-png.ts';
import { sayColourSpace } from './png-chunks.ts';
import { writeTga } from './tga.ts';

/**
 * Writes a picture in another format, and reads it again.
 * @param space whether its numbers are colours or data, where its role says it
 * @throws ReadError
 */
export async function writePicture(
  request: ReadRequest,
  settings: PictureSettings,
  { space, isNormal }: { space: 'sRGB' | 'linear' | null; isNormal: boolean },
): Promise<Written> {
  const picture = await pictureOf(request);
  const { as } = settings;
  if (as === asItLay) throw new RangeError('writePicture: what stays as it lay is not written');
  const isData = space === 'linear';
  const files: MadeFile[] = [];
  const differing: string[] = [];
  const notes: string[] = [];
  const images = imagesToWrite(picture, settings);
  let isLight = false;
  for (const { place, ending } of images) {
    const stored = await picture.image(place);
    isLight ||= stored.data instanceof Float32Array;
    const turned = isNormal && settings.green === 'turned' ? withGreenTurned(stored) : stored;
    const pixels = mended(turned, settings, isData, notes);
    const bytes = await encode(pixels, as, settings, request.platform, picture.hasAlpha, isData);
    files.push({ ending, bytes: as === 'png' && space ? sayColourSpace(bytes, space) : bytes });
    const proof = await proofOf(pixels, bytes, as, request.platform, isData, picture.hasAlpha);
    if (proof.verdict === 'differs')
      differing.push(images.length > 1 ? `${ending}: ${proof.sentence}` : proof.sentence);
  }
  const proof: Proof = {
    verdict: differing.length === 0 ? 'the same' : 'differs',
    sentence:
      differing.slice(0, 3).join(' ') + (differing.length > 3 ? ` And ${differing.length - 3} more.` : ''),
  };
  return { files, losses: lossesOfPicture(picture, isLight, settings), notes: [...new Set(notes)], proof };
}

/** Cropped, scaled and smoothed, as it is asked for. @param notes take what was done */
function mended(pixels: Pixels, settings: PictureSettings, isData: boolean, notes: string[]): Pixels {
  const sizeOf = ({ width, height }: Pixels): string => `${width} × ${height}`;
  let now = pixels;
  const frame = frameOf(pixels, settings);
  if (frame) {
    now = cropped(pixels, frame);
    notes.push(`cropped from ${sizeOf(pixels)} to ${sizeOf(now)}`);
  } else if (settings.rectangle !== '')
    notes.push(`not cropped: the rectangle lies outside its ${sizeOf(pixels)} pixels`);
  if (settings.noise === 'taken off') {
    now = denoised(now);
    notes.push('mild noise taken off');
  }
  const size =
    settings.width > 0
      ? { width: settings.width, height: Math.max(1, Math.round((now.height * settings.width) / now.width)) }
      : scaledSize(now, settings.scale);
  if (size.width !== now.width || size.height !== now.height) {
    const larger = scaled(now, size, isData);
    notes.push(`scaled from ${sizeOf(now)} to ${sizeOf(larger)}`);
    now = larger;
  }
  if (settings.bands === 'kept') return now;
  notes.push('bands smoothed');
  return withoutBands(now);
}

/** The rectangle that somebody wants, within the picture, or what is left without its border. */
function frameOf(pixels: Pixels, { crop, tolerance, rectangle }: PictureSettings): Frame | null {
  if (rectangle === '') return crop === 'none' ? null : frameWithoutBorder(pixels, crop, tolerance);
  const [left = 0, top = 0, width = 0, height = 0] = rectangle.split(',').map(Number);
  const frame = {
    ...{ left, top },
    width: Math.min(width, pixels.width - left),
    height: Math.min(height, pixels.height - top),
  };
  return frame.width > 0 && frame.height > 0 ? frame : null;
}

async function encode(
  pixels: Pixels,
  as: PictureFormat,
  { quality }: PictureSettings,
  platform: Platform,
  hasAlpha: boolean,
  isData: boolean,
): Promise<Uint8Array> {
  switch (as) {
    case 'png':
      return platform.encodeImage(pixels.data instanceof Uint8Array ? pixels : withBits(pixels, 16, isData), {
        as,
        hasAlpha,
        quality,
      });
    case 'webp':
    case 'jpeg':
      return platform.encodeImage(withBits(pixels, 8, isData), {
        as,
        hasAlpha: hasAlpha && as === 'webp',
        quality,
      });
    case 'tga':
      return writeTga(withBits(pixels, 8, isData), hasAlpha);
    case 'exr': {
      const { writeExr } = await import('./exr.ts');
      return writeExr(asLight(pixels, isData));
    }
  }
}

async function proofOf(
  source: Pixels,
  bytes: Uint8Array,
  as: PictureFormat,
  platform: Platform,
  isData: boolean,
  hasAlpha: boolean,
): Promise<Proof> {
  const read =
    as === 'png'
      ? decodePng(bytes, platform)
      : await (await openPicture(bytes, `x${pictureEndings[as]}`, platform)).image();
  return proofOfPixels(source, read, { isData, hasAlpha: hasAlpha && as !== 'jpeg' }, platform);
}
