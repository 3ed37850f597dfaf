import { expect } from 'chai';
import { compareBytes } from '../../../tests/support/compare.ts';

const encode = (text: string): Uint8Array => new TextEncoder().encode(text);

const corners = [
  [0, 0, 0],
  [4, 0, 0],
  [4, 0, 2],
  [0, 0, 2],
  [1.5, 3, 1],
] as const;
const faces = [
  [0, 1, 2],
  [0, 2, 3],
  [1, 0, 4],
  [2, 1, 4],
  [3, 2, 4],
  [0, 3, 4],
] as const;
const places = (tall = 1): string[] => corners.map(([x, y, z]) => `${x} ${y * tall} ${z}`);

/** One pyramid, as formats of plain text have it. */
const written = {
  obj: (tall?: number): Uint8Array =>
    encode(
      [
        'mtllib a.mtl',
        ...places(tall).map((place) => `v ${place}`),
        ...corners.map((_, at) => `vt ${at / 5} 0.25`),
        'g base\nusemtl wood',
        ...faces.slice(0, 2).map((face) => `f ${face.map((at) => `${at + 1}/${at + 1}`).join(' ')}`),
        'g top\nusemtl iron',
        ...faces.slice(2).map((face) => `f ${face.map((at) => `${at + 1}/${at + 1}`).join(' ')}`),
      ].join('\n'),
    ),
  stl: (tall?: number): Uint8Array =>
    encode(
      `solid pyramid\n${faces
        .map(
          (face) =>
            `facet normal 0 0 0\nouter loop\n${face.map((at) => `vertex ${places(tall)[at] ?? ''}`).join('\n')}\nendloop\nendfacet`,
        )
        .join('\n')}\nendsolid pyramid\n`,
    ),
  ply: (tall?: number): Uint8Array =>
    encode(
      [
        'ply\nformat ascii 1.0',
        `element vertex ${corners.length}`,
        'property float x\nproperty float y\nproperty float z',
        `element face ${faces.length}`,
        'property list uchar int vertex_indices\nend_header',
        ...places(tall),
        ...faces.map((face) => `3 ${face.join(' ')}`),
        '',
      ].join('\n'),
    ),
  off: (tall?: number): Uint8Array =>
    encode(
      `OFF\n${corners.length} ${faces.length} 0\n${places(tall).join('\n')}\n${faces.map((face) => `3 ${face.join(' ')}`).join('\n')}\n`,
    ),
};
type Format = keyof typeof written;

const mtl = encode('newmtl wood\nKd 0.5 0.3 0.1\n\nnewmtl iron\nKd 0.2 0.2 0.2\n');
const resolve = (reference: string): Promise<Uint8Array | null> =>
  Promise.resolve(reference === 'a.mtl' ? mtl : null);
const compared = (from: Format, to: Format, tall?: number) =>
  compareBytes(
    { bytes: written[from](), path: `a.${from}`, resolve },
    { bytes: written[to](tall), path: `a.${to}`, resolve },
  );

/** A model that was written in another format: what that cannot say is not gone. */
describe('models in two formats', () => {
  const sayings: [from: Format, to: Format, sentence: string][] = [
    ['obj', 'stl', 'The same shape, STL says nothing of parts, materials and UVs.'],
    ['stl', 'obj', 'The same shape, STL said nothing of parts, materials and UVs.'],
    ['obj', 'ply', 'The same shape, 1 UV set fewer, PLY says nothing of parts and materials.'],
    ['obj', 'off', 'The same shape, OFF says nothing of parts, materials and UVs.'],
    ['ply', 'stl', 'The same shape.'],
    ['stl', 'ply', 'The same shape.'],
    ['off', 'ply', 'The same shape.'],
  ];
  for (const [from, to, sentence] of sayings)
    it(`${from} to ${to}`, async () => {
      const comparison = await compared(from, to);
      expect(comparison.sentence).to.equal(sentence);
      expect(comparison.nature).to.equal(sentence === 'The same shape.' ? 'rewritten' : 'other');
      expect(comparison.sentence).not.to.match(/gone|new\b|renamed|normals/);
    });

  it('tells what did change, in the units of the files', async () => {
    for (const to of ['stl', 'ply', 'off'] as const) {
      const { sentence, detail } = await compared('obj', to, 1.1);
      expect(sentence, to).to.match(/^The surface is up to 0\.\d+ units off \(\d\.\d+ % of its size\)/);
      expect(sentence, to).not.to.match(/gone| mm| m /);
      expect(detail).to.include({ kind: 'model', lengths: 'units' });
    }
  });
});
