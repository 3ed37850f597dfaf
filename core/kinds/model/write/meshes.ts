import { zipSync } from 'fflate';
import type { ModelSettings } from '../../../../contract/haul-settings.ts';
import { ReadError } from '../../reading.ts';
import type { FlatPart } from './flat-parts.ts';
import { fromLight } from '../../srgb.ts';

const mostTriangles = 2 ** 32 - 1;

function triangleSum(parts: readonly FlatPart[]): number {
  const sum = parts.reduce((total, { indices }) => total + indices.length / 3, 0);
  if (sum === 0) throw new ReadError('it has no triangles, and this format holds nothing else');
  if (sum > mostTriangles) throw new ReadError(`it has ${sum} triangles, more than this format can count`);
  return sum;
}

/** A binary STL: 80 bytes, a count, and 50 bytes to a triangle (common practice, no published standard). @throws ReadError */
export function writeStl(parts: readonly FlatPart[]): Uint8Array {
  const bytes = new Uint8Array(84 + triangleSum(parts) * 50);
  const view = new DataView(bytes.buffer);
  view.setUint32(80, triangleSum(parts), true);
  let at = 84;
  for (const { positions, indices } of parts)
    for (let corner = 0; corner < indices.length; corner += 3) {
      const [a, b, c] = [0, 1, 2].map((k) => (indices[corner + k] ?? 0) * 3) as [number, number, number];
      const edge = (to: number, axis: number): number =>
        (positions[to + axis] ?? 0) - (positions[a + axis] ?? 0);
      const normal = [0, 1, 2].map(
        (axis) =>
          edge(b, (axis + 1) % 3) * edge(c, (axis + 2) % 3) -
          edge(b, (axis + 2) % 3) * edge(c, (axis + 1) % 3),
      );
      const length = Math.hypot(...normal) || 1;
      for (let axis = 0; axis < 3; axis++) view.setFloat32(at + axis * 4, (normal[axis] ?? 0) / length, true);
      [a, b, c].forEach((vertex, k) => {
        for (let axis = 0; axis < 3; axis++)
          view.setFloat32(at + 12 + k * 12 + axis * 4, positions[vertex + axis] ?? 0, true);
      });
      at += 50;
    }
  return bytes;
}

/**
 * A binary PLY, little-endian, of all parts in one: with normals, UVs and colours where every part has them (the names of its
 * properties are common practice).
 * @throws ReadError
 */
export function writePly(parts: readonly FlatPart[]): Uint8Array {
  const faces = triangleSum(parts);
  const vertices = parts.reduce((sum, { positions }) => sum + positions.length / 3, 0);
  const hasNormals = parts.every(({ normals }) => normals);
  const hasUvs = parts.every(({ uvs }) => uvs);
  const hasColours = parts.some(({ colours }) => colours);
  const head = new TextEncoder().encode(
    [
      'ply',
      'format binary_little_endian 1.0',
      `element vertex ${vertices}`,
      ...['x', 'y', 'z', ...(hasNormals ? ['nx', 'ny', 'nz'] : []), ...(hasUvs ? ['s', 't'] : [])].map(
        (name) => `property float ${name}`,
      ),
      ...(hasColours ? ['red', 'green', 'blue', 'alpha'] : []).map((name) => `property uchar ${name}`),
      `element face ${faces}`,
      'property list uchar uint vertex_indices',
      'end_header\n',
    ].join('\n'),
  );
  const vertexBytes = 12 + (hasNormals ? 12 : 0) + (hasUvs ? 8 : 0) + (hasColours ? 4 : 0);
  const bytes = new Uint8Array(head.length + vertices * vertexBytes + faces * 13);
  bytes.set(head);
  const view = new DataView(bytes.buffer);
  let at = head.length;
  const floats = (values: Float32Array, from: number, count: number): void => {
    for (let k = 0; k < count; k++, at += 4) view.setFloat32(at, values[from + k] ?? 0, true);
  };
  for (const { positions, normals, uvs, colours } of parts)
    for (let vertex = 0; vertex * 3 < positions.length; vertex++) {
      floats(positions, vertex * 3, 3);
      if (hasNormals && normals) floats(normals, vertex * 3, 3);
      if (hasUvs && uvs) {
        floats(uvs, vertex * 2, 1);
        // From below, as this format's readers have it.
        view.setFloat32(at, 1 - (uvs[vertex * 2 + 1] ?? 0), true);
        at += 4;
      }
      if (hasColours)
        for (let k = 0; k < 4; k++)
          bytes[at++] = Math.round(Math.max(0, Math.min(1, colours?.[vertex * 4 + k] ?? 1)) * 255);
    }
  let first = 0;
  for (const { positions, indices } of parts) {
    for (let corner = 0; corner < indices.length; corner += 3) {
      bytes[at++] = 3;
      for (let k = 0; k < 3; k++, at += 4) view.setUint32(at, first + (indices[corner + k] ?? 0), true);
    }
    first += positions.length / 3;
  }
  return bytes;
}

const unitNames = { metres: 'meter', centimetres: 'centimeter', millimetres: 'millimeter' } as const;
const contentTypes =
  '<?xml version="1.0" encoding="UTF-8"?>\n<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>';
const relations =
  '<?xml version="1.0" encoding="UTF-8"?>\n<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>';

/**
 * A 3MF package: an object for each part, with the colour of its material, in the unit that was asked for and Z up (3MF Core
 * Specification 1.3).
 * @param parts Z up
 * @throws ReadError
 */
export function write3mf(parts: readonly FlatPart[], unit: ModelSettings['unit']): Uint8Array {
  triangleSum(parts);
  const materials = [...new Set(parts.map(({ material }) => material))].filter(
    (material) => material !== null,
  );
  const pieces = [
    '<?xml version="1.0" encoding="UTF-8"?>\n',
    `<model unit="${unitNames[unit]}" xml:lang="en-US" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources>`,
    ...(materials.length > 0
      ? [
          '<basematerials id="1">',
          ...materials.map(
            (material) =>
              `<base name="${escaped(material.getName() || 'material')}" displaycolor="${colourOf(material.getBaseColorFactor())}"/>`,
          ),
          '</basematerials>',
        ]
      : []),
  ];
  parts.forEach(({ name, positions, indices, material }, at) => {
    pieces.push(
      `<object id="${at + 2}" type="model" name="${escaped(name)}"${material ? ` pid="1" pindex="${materials.indexOf(material)}"` : ''}><mesh><vertices>`,
    );
    for (let vertex = 0; vertex < positions.length; vertex += 3)
      pieces.push(
        `<vertex x="${number(positions[vertex])}" y="${number(positions[vertex + 1])}" z="${number(positions[vertex + 2])}"/>`,
      );
    pieces.push('</vertices><triangles>');
    for (let corner = 0; corner < indices.length; corner += 3) {
      const [a, b, c] = [indices[corner], indices[corner + 1], indices[corner + 2]];
      // The schema has no triangle with a corner twice.
      if (a !== b && b !== c && a !== c) pieces.push(`<triangle v1="${a}" v2="${b}" v3="${c}"/>`);
    }
    pieces.push('</triangles></mesh></object>');
  });
  pieces.push(
    '</resources><build>',
    ...parts.map((_, at) => `<item objectid="${at + 2}"/>`),
    '</build></model>',
  );
  const encoder = new TextEncoder();
  return zipSync(
    {
      '[Content_Types].xml': encoder.encode(contentTypes),
      '_rels/.rels': encoder.encode(relations),
      '3D/3dmodel.model': encoder.encode(pieces.join('')),
    },
    // The same bytes whenever it is written.
    { mtime: new Date('1980-01-01T00:00:00') },
  );
}

function number(value: number | undefined): string {
  return (value ?? 0).toFixed(6).replace(/\.?0+$/, '');
}

function escaped(text: string): string {
  return text
    .replace(/[&<>"]/g, (letter) => ({ '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' })[letter] ?? '')
    .replace(/[^\t\n\r\u0020-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu, '');
}

/** #RRGGBBAA of linear factors. */
function colourOf(factor: readonly number[]): string {
  const channel = (value: number, isLight: boolean): string => {
    const coded = isLight ? fromLight(value) : value;
    return Math.round(Math.max(0, Math.min(1, coded)) * 255)
      .toString(16)
      .padStart(2, '0')
      .toUpperCase();
  };
  return `#${factor.map((value, at) => channel(value, at < 3)).join('')}`;
}
