import { previewSize, type Reader } from '../reading.ts';

/** Facts of a picture and its preview, from one decoding of all its pixels: damage shows here. */
export const readPicture: Reader = async ({ bytes, platform }) => {
  const picture = await platform.decodePicture(bytes, previewSize);
  return {
    facts: {
      kind: 'picture',
      width: picture.storedWidth,
      height: picture.storedHeight,
      channels: picture.channels,
      hasAlpha: picture.hasAlpha,
      bitsPerChannel: picture.bitsPerChannel,
      frames: picture.frames,
      colourSpace: picture.colourSpace,
    },
    preview: picture,
  };
};
