import { isReadError, previewSize, readingOf, type Reader } from '../reading.ts';
import { identify } from '../identify.ts';
import { decodedDrawing } from './drawing.ts';
import { displayMark, plainDisplay } from './display.ts';
import { pictureOf } from './open.ts';
import type { Picture, Pixels } from './picture.ts';
import { shrink } from './shrink.ts';
import { pictureSignature } from './signature.ts';

/** Facts of a picture, and its preview, fingerprint and signature from all of its pixels: damage shows here. */
export const readPicture: Reader = async (request) => {
  const { bytes, path, bySheet } = request;
  const picture = await pictureOf(request);
  const facts = factsOf(picture);
  try {
    const image = await picture.image();
    const preview = shrink(image, previewSize);
    const isDrawing = !bySheet && identify(bytes.subarray(0, 1024), path).format === 'svg';
    const decoded = (isDrawing ? decodedDrawing(bytes) : null) ?? (await decodedOf(picture, image));
    return readingOf(facts, { preview, decoded, signature: pictureSignature(preview, facts) });
  } catch (error) {
    if (!isReadError(error)) throw error;
    return readingOf(facts, { damage: error.message });
  }
};

function factsOf({ image, display, ...picture }: Picture) {
  void image;
  void display;
  return { kind: 'picture' as const, ...picture };
}

/** More frames than these are told apart by the first ones. */
const mostFrames = 500;

/** The largest level of every layer, side, slice and frame; 8 bits where 16 say no more than they would. */
async function decodedOf(picture: Picture, first: Pixels): Promise<Uint8Array[]> {
  const { width, height, depth, layers, faces, frames } = picture;
  const pieces: Uint8Array[] = [];
  let name = '';
  for (let layer = 0; layer < layers; layer++)
    for (let face = 0; face < faces; face++)
      for (let slice = 0; slice < depth; slice++) {
        const isFirst = layer + face + slice === 0;
        const data = narrow((isFirst ? first : await picture.image({ layer, face, slice })).data);
        if (isFirst) name = data.constructor.name;
        pieces.push(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
      }
  for (let frame = 1; frame < Math.min(frames, mostFrames); frame++) {
    const data = narrow((await picture.image({ frame })).data);
    pieces.push(new Uint8Array(data.buffer, data.byteOffset, data.byteLength));
  }
  return [
    new TextEncoder().encode(
      `picture ${width} ${height} ${depth} ${layers} ${faces} ${frames} ${name}${displayMark(picture.display ?? plainDisplay)}\n`,
    ),
    ...pieces,
  ];
}

/** 16 bits as 8 where they say no more. */
export function narrow(data: Pixels['data']): Pixels['data'] {
  if (!(data instanceof Uint16Array)) return data;
  const narrowed = new Uint8Array(data.length);
  for (let at = 0; at < data.length; at++) {
    const value = data[at] ?? 0;
    if (value % 257 !== 0) return data;
    narrowed[at] = value / 257;
  }
  return narrowed;
}
