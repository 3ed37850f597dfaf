import type { PictureSettings } from '../../../../contract/haul-settings.ts';
import { asItLay } from '../../../../contract/haul-settings.ts';
import type { Platform, ReadRequest } from '../../reading.ts';
import type { MadeFile, Proof, Written } from '../../writing.ts';
import { openPicture, pictureOf } from '../open.ts';
import type { Pixels } from '../picture.ts';
import { cropped, frameWithoutBorder } from '../mend/crop.ts';
import { scaled, scaledSize } from '../mend/scale.ts';
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

/** Cropped and scaled, as it is asked for. @param notes take what was done */
function mended(pixels: Pixels, settings: PictureSettings, isData: boolean, notes: string[]): Pixels {
  const sizeOf = ({ width, height }: Pixels): string => `${width} × ${height}`;
  let now = pixels;
  const frame =
    settings.crop === 'none' ? null : frameWithoutBorder(pixels, settings.crop, settings.tolerance);
  if (frame) {
    now = cropped(pixels, frame);
    notes.push(`cropped from ${sizeOf(pixels)} to ${sizeOf(now)}`);
  }
  if (settings.scale === 1) return now;
  const larger = scaled(now, scaledSize(now, settings.scale), isData);
  notes.push(`scaled from ${sizeOf(now)} to ${sizeOf(larger)}`);
  return larger;
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
  return proofOfPixels(source, read, isData, hasAlpha && as !== 'jpeg');
}
