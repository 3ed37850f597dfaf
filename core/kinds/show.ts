import type { Kind } from '../../contract/kinds.ts';
import type { ImagePlace } from './picture/picture.ts';
import type { PixelRegion } from './picture/view/pixel-bytes.ts';
import { pixelsType } from './picture/view/pixel-bytes.ts';
import { ReadError, type ReadRequest } from './reading.ts';

/** A content in a form that browsers show. */
export interface Shown {
  mediaType: string;
  bytes: Uint8Array;
}

/** Which image of a picture is shown, and how. */
export type ShownPlace = ImagePlace & {
  /** Its numbers as they are stored, of a part of it or (null) of all; nothing for a picture that a browser shows. */
  pixels?: PixelRegion | null;
};

/** Larger pictures are shown smaller. */
const mostPixelsOfSide = 8192;
const mostPixelsOfMap = 4096;

/**
 * Makes of a content what a browser can show.
 * @param place which of a picture's images
 * @throws ReadError
 */
export async function show(
  kind: Kind,
  format: string,
  request: ReadRequest,
  place: ShownPlace,
): Promise<Shown> {
  switch (kind) {
    case 'picture': {
      const [{ pictureOf }, { shrink }] = await Promise.all([
        import('./picture/open.ts'),
        import('./picture/shrink.ts'),
      ]);
      const picture = await pictureOf(request);
      if (place.pixels !== undefined) {
        const { pixelsToSee } = await import('./picture/view/pixels-to-see.ts');
        return { mediaType: pixelsType, bytes: await pixelsToSee(picture, place, place.pixels) };
      }
      const raster = shrink(await picture.image(place), mostPixelsOfSide);
      return { mediaType: 'image/png', bytes: await request.platform.encodePicture(raster) };
    }
    case 'model':
    case 'clip': {
      const { writeShownModel } = await import('./model/write-shown.ts');
      return { mediaType: 'model/gltf-binary', bytes: await writeShownModel(request) };
    }
    case 'font': {
      const { fontCharacters } = await import('./font/read.ts');
      const characters = JSON.stringify(fontCharacters(request.bytes));
      return { mediaType: 'application/json', bytes: new TextEncoder().encode(characters) };
    }
    case 'sound': {
      const [{ soundOf }, { writeShownWave }] = await Promise.all([
        import('./sound/read.ts'),
        import('./sound/write/shown-wave.ts'),
      ]);
      return { mediaType: 'audio/wav', bytes: writeShownWave((await soundOf(request, format)).sound) };
    }
    case 'map': {
      if (format !== 'tmx') return showPlacements(request);
      const { openTiles } = await import('./map/read-tiles.ts');
      // Layers are counted from 1 here: what is not asked for is all of them.
      const { raster } = await openTiles(request, mostPixelsOfMap, place.layer ? place.layer - 1 : null);
      if (!raster)
        throw new ReadError('there is no tile on this map, or its pictures are too large for its cells');
      return { mediaType: 'image/png', bytes: await request.platform.encodePicture(raster) };
    }
    case 'text':
      // Only what a sheet makes a table of is another text than its bytes.
      if (format !== 'sheet-table') throw new ReadError('a text is shown as it is');
      return { mediaType: 'text/csv; charset=utf-8', bytes: request.bytes };
    default:
      throw new ReadError(`a ${kind} is not shown in another form`);
  }
}

/** A map with its models, as they are in the build that it is looked at in. */
async function showPlacements(request: ReadRequest): Promise<Shown> {
  const [{ openPlacements }, { drawMap }] = await Promise.all([
    import('./map/read.ts'),
    import('./map-picture.ts'),
  ]);
  const raster = await drawMap(await openPlacements(request), request);
  if (!raster) throw new ReadError('none of its models is in this build');
  return { mediaType: 'image/png', bytes: await request.platform.encodePicture(raster) };
}
