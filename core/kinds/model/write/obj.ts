import type { Material, Texture } from '@gltf-transform/core';
import { joinBytes } from '../../../bytes.ts';
import { fromLight } from '../../srgb.ts';
import { singleChannel } from './channel-pictures.ts';
import type { ReadRequest } from '../../reading.ts';
import type { MadeFile } from '../../writing.ts';
import type { FlatPart } from './flat-parts.ts';
import { uniqueName } from '../../file-names.ts';
import { endingOfPicture } from './picture-names.ts';

/**
 * Wavefront OBJ with its materials and pictures: a group for each part, colours behind the places of vertices as several programs
 * read them (common practice), and for the materials the fields of MTL with those of its extension for roughness, metalness,
 * emission and normal maps (common practice, no published standard).
 * @param stem what the files are called
 */
export async function writeObj(
  parts: readonly FlatPart[],
  request: Pick<ReadRequest, 'raster' | 'platform'>,
  stem: string,
): Promise<MadeFile[]> {
  const materials = namedMaterials(parts);
  const pictures = new Pictures(request, stem);
  const library: string[] = [];
  for (const [material, name] of materials) library.push(...(await describe(material, name, pictures)));
  const hasLibrary = materials.size > 0;
  const text = new TextPieces();
  if (hasLibrary) text.add(`mtllib ${stem}.mtl\n`);
  const offsets = { position: 1, uv: 1, normal: 1 };
  const names = new Set<string>();
  for (const part of parts) {
    text.add(`o ${uniqueName(oneLine(part.name), names)}\n`);
    addPart(text, part, part.material ? materials.get(part.material) : undefined, offsets);
  }
  return [
    { ending: '.obj', bytes: text.bytes() },
    ...(hasLibrary ? [{ ending: '.mtl', bytes: new TextEncoder().encode(library.join('\n') + '\n') }] : []),
    ...pictures.files,
  ];
}

function addPart(
  text: TextPieces,
  { positions, normals, uvs, colours, indices }: FlatPart,
  material: string | undefined,
  offsets: { position: number; uv: number; normal: number },
): void {
  for (let vertex = 0; vertex * 3 < positions.length; vertex++) {
    const place = triple(positions, vertex * 3);
    const colour = colours ? ` ${triple(colours, vertex * 4)}` : '';
    text.add(`v ${place}${colour}\n`);
  }
  if (uvs)
    for (let at = 0; at < uvs.length; at += 2)
      text.add(`vt ${digits(uvs[at] ?? 0)} ${digits(1 - (uvs[at + 1] ?? 0))}\n`);
  if (normals) for (let at = 0; at < normals.length; at += 3) text.add(`vn ${triple(normals, at)}\n`);
  if (material !== undefined) text.add(`usemtl ${material}\n`);
  const corner = (vertex: number): string =>
    `${vertex + offsets.position}${uvs || normals ? `/${uvs ? vertex + offsets.uv : ''}` : ''}${normals ? `/${vertex + offsets.normal}` : ''}`;
  for (let at = 0; at < indices.length; at += 3)
    text.add(
      `f ${corner(indices[at] ?? 0)} ${corner(indices[at + 1] ?? 0)} ${corner(indices[at + 2] ?? 0)}\n`,
    );
  offsets.position += positions.length / 3;
  offsets.uv += (uvs?.length ?? 0) / 2;
  offsets.normal += (normals?.length ?? 0) / 3;
}

function triple(values: Float32Array, at: number): string {
  return `${digits(values[at] ?? 0)} ${digits(values[at + 1] ?? 0)} ${digits(values[at + 2] ?? 0)}`;
}

/** Nine digits tell every float of 32 bits from its neighbours. */
function digits(value: number): string {
  return String(Number(value.toPrecision(9)));
}

/** Lines of a file, kept as bytes: as one string they would be longer than strings may be. */
class TextPieces {
  private readonly pieces: Uint8Array[] = [];
  private lines: string[] = [];
  private letters = 0;

  add(line: string): void {
    this.lines.push(line);
    this.letters += line.length;
    if (this.letters > 1_000_000) this.flush();
  }

  bytes(): Uint8Array {
    this.flush();
    return joinBytes(this.pieces);
  }

  private flush(): void {
    this.pieces.push(new TextEncoder().encode(this.lines.join('')));
    this.lines = [];
    this.letters = 0;
  }
}

function namedMaterials(parts: readonly FlatPart[]): Map<Material, string> {
  const names = new Map<Material, string>();
  const used = new Set<string>();
  for (const { material } of parts)
    if (material && !names.has(material))
      names.set(material, uniqueName(oneLine(material.getName() || 'material'), used));
  return names;
}

/** Names end where their line does. */
function oneLine(name: string): string {
  return name.replace(/\s+/g, ' ').trim() || 'part';
}

/** The pictures of materials as files beside the model. */
class Pictures {
  readonly files: MadeFile[] = [];
  private readonly known = new Map<string, string>();
  private readonly names = new Set<string>();
  private readonly keys = new Map<Texture, number>();

  constructor(
    private readonly request: Pick<ReadRequest, 'raster' | 'platform'>,
    private readonly stem: string,
  ) {}

  /** @param channel one channel of it, as a grey picture; null for all of it */
  async path(
    texture: Texture | null,
    material: string,
    role: string,
    channel: 0 | 1 | 2 | 3 | null = null,
  ): Promise<string | null> {
    const image = texture?.getImage();
    if (!texture || !image) return null;
    const number = this.keys.get(texture) ?? this.keys.size;
    this.keys.set(texture, number);
    const key = `${number} ${channel ?? 'all'}`;
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const bytes = channel === null ? image : await singleChannel(image, channel, this.request);
    const ending = endingOfPicture(
      `${material}-${role}`,
      channel === null ? texture.getMimeType() : 'image/png',
      this.names,
    );
    this.files.push({ ending, bytes });
    const path = `${this.stem}${ending}`;
    this.known.set(key, path);
    return path;
  }
}

async function describe(material: Material, name: string, pictures: Pictures): Promise<string[]> {
  const [red, green, blue, alpha] = material.getBaseColorFactor();
  // As programs read it: with the curve of sRGB.
  const colour = [red, green, blue].map((light) => Number(fromLight(light).toFixed(6)));
  const emission = material.getEmissiveFactor();
  const lines = [
    `newmtl ${name}`,
    `Kd ${colour.join(' ')}`,
    `d ${material.getAlphaMode() === 'OPAQUE' ? 1 : alpha}`,
    `Ke ${emission.join(' ')}`,
    `Pr ${material.getRoughnessFactor()}`,
    `Pm ${material.getMetallicFactor()}`,
    'illum 2',
  ];
  const add = (field: string, path: string | null): void =>
    void (path !== null && lines.push(`${field} ${path}`));
  const base = material.getBaseColorTexture();
  const packed = material.getMetallicRoughnessTexture();
  add('map_Kd', await pictures.path(base, name, 'base-colour'));
  if (material.getAlphaMode() !== 'OPAQUE') add('map_d', await pictures.path(base, name, 'opacity', 3));
  add('norm', await pictures.path(material.getNormalTexture(), name, 'normal'));
  add('map_Ke', await pictures.path(material.getEmissiveTexture(), name, 'emission'));
  // Green is roughness, blue is metalness, red of its picture is occlusion (glTF 2.0, 3.9.2 and 3.9.3).
  add('map_Pr', await pictures.path(packed, name, 'roughness', 1));
  add('map_Pm', await pictures.path(packed, name, 'metalness', 2));
  add('map_Ka', await pictures.path(material.getOcclusionTexture(), name, 'occlusion', 0));
  return [...lines, ''];
}
