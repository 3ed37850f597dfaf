import type { Document, Material, Texture } from '@gltf-transform/core';
import type { WornPicture } from '../../../../contract/hauls.ts';
import type { Raster, ReadRequest } from '../../reading.ts';
import { mostPixelsOfSide, packChannels, type ChannelSource } from './channel-pictures.ts';
import { metalPictures } from './specular-to-metal.ts';

type Request = Pick<ReadRequest, 'raster' | 'platform' | 'resolve'>;
const channelNumber = { r: 0, g: 1, b: 2, a: 3 } as const;

/**
 * Gives materials the pictures that they lack, each role in the place that glTF has for it: gloss as roughness, specular colours as
 * metalness, opacity as the alpha of the base colour. What the file says itself stays.
 * @param worn pictures by material and role
 * @returns what could not be worn, in words
 */
export async function wearPictures(
  document: Document,
  worn: readonly WornPicture[],
  request: Request,
): Promise<string[]> {
  const problems: string[] = [];
  const rasters = new Map<string, Promise<Raster | null>>();
  const rasterOf = (path: string): Promise<Raster | null> => {
    const known = rasters.get(path);
    if (known) return known;
    const loading = (async () => {
      const bytes = await request.resolve(path);
      if (!bytes) {
        problems.push(`${path} is not there`);
        return null;
      }
      return request.raster(bytes, mostPixelsOfSide).catch((error: unknown) => {
        problems.push(`${path}: ${error instanceof Error ? error.message : String(error)}`);
        return null;
      });
    })();
    rasters.set(path, loading);
    return loading;
  };
  const made = new Map<string, Texture>();
  const textureOf = async (name: string, raster: Raster): Promise<Texture> => {
    const known = made.get(name);
    if (known) return known;
    const hasAlpha = isTransparent(raster);
    const { width, height, rgba } = raster;
    const image = await request.platform.encodeImage(
      { width, height, data: rgba },
      { as: 'png', hasAlpha, quality: 100 },
    );
    const texture = document.createTexture(name).setImage(new Uint8Array(image)).setMimeType('image/png');
    made.set(name, texture);
    return texture;
  };
  for (const material of document.getRoot().listMaterials()) {
    const of = worn.filter((picture) => picture.material === material.getName());
    if (of.length > 0) await wear(material, of, rasterOf, textureOf);
  }
  return problems;
}

async function wear(
  material: Material,
  pictures: readonly WornPicture[],
  rasterOf: (path: string) => Promise<Raster | null>,
  textureOf: (name: string, raster: Raster) => Promise<Texture>,
): Promise<void> {
  const find = (role: string): WornPicture | undefined => pictures.find((picture) => picture.role === role);
  const open = async (role: string): Promise<Raster | null> => {
    const picture = find(role);
    return picture ? rasterOf(picture.path) : null;
  };
  const packed = find('packed channels');
  /** A role alone, or one channel of those that are packed. */
  const channelOf = async (role: string): Promise<ChannelSource | null> => {
    const alone = await open(role);
    if (alone) return { from: alone, channel: 0 };
    const place = packed?.channels.find((one) => one.role === role);
    const from = packed && place ? await rasterOf(packed.path) : null;
    return from && place ? { from, channel: channelNumber[place.channel] } : null;
  };
  const nameOf = (...roles: string[]): string =>
    roles
      .flatMap(
        (role) =>
          find(role)
            ?.path.split('/')
            .pop()
            ?.replace(/\.[^.]*$/, '') ?? [],
      )
      .join('+') || roles.join('+');

  let base = await open('base colour');
  let metal = await channelOf('metalness');
  const specular = await open('specular');
  const hadBase = material.getBaseColorTexture() !== null;
  if (base && specular && !metal && !hadBase) {
    const converted = metalPictures(base, specular);
    base = converted.base;
    metal = { from: converted.metalness, channel: 0 };
  }
  const opacity = await channelOf('opacity');
  if (!hadBase && base) {
    const whole = opacity
      ? packChannels([0, 1, 2].map((at) => channelSource(base, at)).concat(opacity), [255, 255, 255, 255])
      : base;
    material.setBaseColorTexture(await textureOf(nameOf('base colour', 'opacity', 'specular'), whole));
    material.setBaseColorFactor([1, 1, 1, material.getBaseColorFactor()[3]]);
    if (opacity && material.getAlphaMode() === 'OPAQUE') material.setAlphaMode('MASK');
  }
  const normal = await open('normal');
  if (normal && !material.getNormalTexture())
    material.setNormalTexture(await textureOf(nameOf('normal'), normal));
  const emission = await open('emission');
  if (emission && !material.getEmissiveTexture())
    material.setEmissiveTexture(await textureOf(nameOf('emission'), emission)).setEmissiveFactor([1, 1, 1]);
  const rough = await channelOf('roughness');
  const gloss = rough ? null : await channelOf('gloss');
  const occlusion = await channelOf('occlusion');
  const surface = rough ?? (gloss ? { ...gloss, isInverted: true } : null);
  if (!material.getMetallicRoughnessTexture() && (surface || metal)) {
    const factor = (value: number): number => Math.round(value * 255);
    // Red is occlusion, green roughness, blue metalness: one picture for all (glTF 2.0, 3.9.2 and 3.9.3).
    const orm = packChannels(
      [occlusion, surface, metal, null],
      [255, factor(material.getRoughnessFactor()), metal ? 255 : 0, 255],
    );
    const texture = await textureOf(
      nameOf('packed channels', 'occlusion', rough ? 'roughness' : 'gloss', metal ? 'metalness' : 'specular'),
      orm,
    );
    material.setMetallicRoughnessTexture(texture).setRoughnessFactor(1).setMetallicFactor(1);
    if (occlusion && !material.getOcclusionTexture()) material.setOcclusionTexture(texture);
  } else if (occlusion && !material.getOcclusionTexture()) {
    const grey = packChannels([occlusion, occlusion, occlusion, null], [255, 255, 255, 255]);
    material.setOcclusionTexture(await textureOf(nameOf('occlusion'), grey));
  }
}

function channelSource(from: Raster, channel: number): ChannelSource | null {
  return { from, channel: channel as 0 | 1 | 2 };
}

function isTransparent({ rgba }: Raster): boolean {
  for (let at = 3; at < rgba.length; at += 4) if (rgba[at] !== 255) return true;
  return false;
}
