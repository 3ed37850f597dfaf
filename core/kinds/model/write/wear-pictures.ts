import type { Document, Material, Texture } from '@gltf-transform/core';
import { LRUCache } from 'lru-cache';
import type { WornPicture } from '../../../../contract/hauls.ts';
import type { Raster, ReadRequest } from '../../reading.ts';
import { mostPixelsOfSide, packChannels, type ChannelSource } from './channel-pictures.ts';
import { metalPictures } from './specular-to-metal.ts';
import { crc32, fnv1a32 } from '../../../formats/language/check-sums.ts';
import { hasColourNotes } from './standard-pictures.ts';

type Request = Pick<ReadRequest, 'raster' | 'platform' | 'resolve'>;
const channelNumber = { r: 0, g: 1, b: 2, a: 3 } as const;

/** Pictures that were made of others: hundreds of models of a build wear the same ones. */
const made = new LRUCache<string, Uint8Array>({
  maxSize: 128 * 1024 ** 2,
  sizeCalculation: ({ length }) => Math.max(1, length),
});

/** A picture of the build, decoded when that is needed. */
interface WornFile {
  bytes: Uint8Array;
  /** The same for the same bytes. */
  key: string;
  raster: () => Promise<Raster>;
}

/** One channel of such a picture. */
interface WornChannel {
  file: WornFile;
  channel: 0 | 1 | 2 | 3;
}

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
  const wardrobe = new Wardrobe(document, request);
  for (const material of document.getRoot().listMaterials()) {
    const of = worn.filter((picture) => picture.material === material.getName());
    if (of.length > 0) await wear(material, of, wardrobe);
  }
  return wardrobe.problems;
}

/** Files by their paths, and textures by what they were made of. */
class Wardrobe {
  readonly problems: string[] = [];
  private readonly files = new Map<string, Promise<WornFile | null>>();
  private readonly textures = new Map<string, Texture>();

  constructor(
    private readonly document: Document,
    private readonly request: Request,
  ) {}

  file(path: string): Promise<WornFile | null> {
    const known = this.files.get(path);
    if (known) return known;
    const loading = this.load(path);
    this.files.set(path, loading);
    return loading;
  }

  /** @param recipe what it is made of, the same for the same picture @returns null where one of its files cannot be decoded */
  async texture(
    name: string,
    recipe: string,
    make: () => Promise<Raster | Uint8Array>,
  ): Promise<Texture | null> {
    const known = this.textures.get(recipe);
    if (known) return known;
    try {
      const image = made.get(recipe) ?? (await this.encoded(await make()));
      made.set(recipe, image);
      const mediaType = image[0] === 0xff ? 'image/jpeg' : 'image/png';
      const texture = this.document
        .createTexture(name)
        .setImage(new Uint8Array(image))
        .setMimeType(mediaType);
      this.textures.set(recipe, texture);
      return texture;
    } catch (error) {
      this.problems.push(`${name}: ${error instanceof Error ? error.message : String(error)}`);
      return null;
    }
  }

  private async encoded(raster: Raster | Uint8Array): Promise<Uint8Array> {
    if (raster instanceof Uint8Array) return raster;
    const { width, height, rgba } = raster;
    const hasAlpha = isTransparent(raster);
    return this.request.platform.encodeImage(
      { width, height, data: rgba },
      { as: 'png', hasAlpha, quality: 100 },
    );
  }

  private async load(path: string): Promise<WornFile | null> {
    const bytes = await this.request.resolve(path);
    if (!bytes) {
      this.problems.push(`${path.replace(/^(\.\.\/)+/, '')} is not there`);
      return null;
    }
    let decoding: Promise<Raster> | null = null;
    return {
      bytes,
      key: `${bytes.length}-${crc32(bytes)}-${fnv1a32(bytes)}`,
      raster: () => (decoding ??= this.request.raster(bytes, mostPixelsOfSide)),
    };
  }
}

async function wear(material: Material, pictures: readonly WornPicture[], wardrobe: Wardrobe): Promise<void> {
  const find = (role: string): WornPicture | undefined => pictures.find((picture) => picture.role === role);
  const open = async (role: string): Promise<WornFile | null> => {
    const picture = find(role);
    return picture ? wardrobe.file(picture.path) : null;
  };
  const packed = find('packed channels');
  /** A role alone, or one channel of those that are packed. */
  const channelOf = async (role: string): Promise<WornChannel | null> => {
    const alone = await open(role);
    if (alone) return { file: alone, channel: 0 };
    const place = packed?.channels.find((one) => one.role === role);
    const file = packed && place ? await wardrobe.file(packed.path) : null;
    return file && place ? { file, channel: channelNumber[place.channel] } : null;
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

  const base = await open('base colour');
  const specular = await open('specular');
  let metal = await channelOf('metalness');
  const isConverted = Boolean(base && specular && !metal && !material.getBaseColorTexture());
  if (base && !material.getBaseColorTexture()) {
    const opacity = await channelOf('opacity');
    const recipe = `base ${base.key} ${isConverted ? (specular?.key ?? '') : ''} ${keyOf(opacity)}`;
    const texture = await wardrobe.texture(nameOf('base colour', 'opacity'), recipe, async () => {
      if (!isConverted && !opacity && isStandard(base.bytes)) return base.bytes;
      const colours =
        isConverted && specular
          ? metalPictures(await base.raster(), await specular.raster()).base
          : await base.raster();
      if (!opacity) return colours;
      const sources = [0, 1, 2].map((at): ChannelSource => ({ from: colours, channel: at as 0 | 1 | 2 }));
      return packChannels([...sources, await sourceOf(opacity)], [255, 255, 255, 255]);
    });
    if (texture) {
      material.setBaseColorTexture(texture).setBaseColorFactor([1, 1, 1, material.getBaseColorFactor()[3]]);
      if (opacity && material.getAlphaMode() === 'OPAQUE') material.setAlphaMode('MASK');
    }
  }
  if (isConverted && base && specular)
    metal = {
      file: {
        bytes: specular.bytes,
        key: `metal ${base.key} ${specular.key}`,
        raster: async () => metalPictures(await base.raster(), await specular.raster()).metalness,
      },
      channel: 0,
    };
  const alone = async (role: 'normal' | 'emission'): Promise<Texture | null> => {
    const file = await open(role);
    return (
      file &&
      wardrobe.texture(nameOf(role), `alone ${file.key}`, async () =>
        isStandard(file.bytes) ? file.bytes : file.raster(),
      )
    );
  };
  if (!material.getNormalTexture()) material.setNormalTexture(await alone('normal'));
  if (!material.getEmissiveTexture()) {
    const emission = await alone('emission');
    if (emission) material.setEmissiveTexture(emission).setEmissiveFactor([1, 1, 1]);
  }
  await wearSurface(material, { channelOf, nameOf, metal }, wardrobe);
}

/** Occlusion, roughness and metalness: red, green and blue of one picture (glTF 2.0, 3.9.2 and 3.9.3). */
async function wearSurface(
  material: Material,
  {
    channelOf,
    nameOf,
    metal,
  }: {
    channelOf: (role: string) => Promise<WornChannel | null>;
    nameOf: (...roles: string[]) => string;
    metal: WornChannel | null;
  },
  wardrobe: Wardrobe,
): Promise<void> {
  const rough = await channelOf('roughness');
  const gloss = rough ? null : await channelOf('gloss');
  const occlusion = await channelOf('occlusion');
  const name = nameOf(
    'packed channels',
    'occlusion',
    rough ? 'roughness' : 'gloss',
    metal ? 'metalness' : 'specular',
  );
  if (!material.getMetallicRoughnessTexture() && (rough || gloss || metal)) {
    const roughness = Math.round(material.getRoughnessFactor() * 255);
    const recipe = `orm ${keyOf(occlusion)} ${keyOf(rough)} ${keyOf(gloss)} ${keyOf(metal)} ${roughness}`;
    const texture = await wardrobe.texture(name, recipe, async () =>
      packChannels(
        [
          await sourceOf(occlusion),
          gloss ? { ...(await sourceOf(gloss)), isInverted: true } : await sourceOf(rough),
          await sourceOf(metal),
          null,
        ],
        [255, roughness, metal ? 255 : 0, 255],
      ),
    );
    if (!texture) return;
    material.setMetallicRoughnessTexture(texture).setRoughnessFactor(1).setMetallicFactor(1);
    if (occlusion && !material.getOcclusionTexture()) material.setOcclusionTexture(texture);
  } else if (occlusion && !material.getOcclusionTexture()) {
    const grey = await wardrobe.texture(nameOf('occlusion'), `grey ${keyOf(occlusion)}`, async () => {
      const source = await sourceOf(occlusion);
      return packChannels([source, source, source, null], [255, 255, 255, 255]);
    });
    material.setOcclusionTexture(grey);
  }
}

function keyOf(channel: WornChannel | null): string {
  return channel ? `${channel.file.key}.${channel.channel}` : '-';
}

async function sourceOf(channel: WornChannel): Promise<ChannelSource>;
async function sourceOf(channel: WornChannel | null): Promise<ChannelSource | null>;
async function sourceOf(channel: WornChannel | null): Promise<ChannelSource | null> {
  return channel && { from: await channel.file.raster(), channel: channel.channel };
}

/** Whether a picture can stand in a glTF as it is. */
function isStandard(bytes: Uint8Array): boolean {
  const isPng = bytes[0] === 0x89 && bytes[1] === 0x50;
  const isJpeg = bytes[0] === 0xff && bytes[1] === 0xd8;
  return isJpeg || (isPng && !hasColourNotes(bytes));
}

function isTransparent({ rgba }: Raster): boolean {
  for (let at = 3; at < rgba.length; at += 4) if (rgba[at] !== 255) return true;
  return false;
}
