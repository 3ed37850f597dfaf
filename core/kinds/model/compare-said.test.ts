import { expect } from 'chai';
import { compareBytes } from '../../../tests/support/compare.ts';
import { fingerprintOf, readBytes } from '../../../tests/support/read.ts';

const bytes = (text: string): Uint8Array => new TextEncoder().encode(text);

/** Two boxes of parts, each with a material, in a text that people edit. */
function obj({
  materials = ['wood', 'iron'],
  names = ['hull', 'lamp'],
  point = (x: number, y: number, z: number): [number, number, number] => [x, y, z],
  isTurnedOver = false,
  parts = [0, 1],
}: {
  materials?: [string, string];
  names?: [string, string];
  point?: (x: number, y: number, z: number) => [number, number, number];
  isTurnedOver?: boolean;
  parts?: number[];
} = {}): Uint8Array {
  const lines = ['mtllib a.mtl'];
  const corner = (part: number, at: number): [number, number, number] => {
    const size = part === 0 ? [4, 1, 2] : [0.5, 1.5, 0.7];
    const from = part === 0 ? [0, 0, 0] : [1, 1.2, 0.3];
    return [0, 1, 2].map((axis) => (from[axis] ?? 0) + ((at >> axis) & 1) * (size[axis] ?? 0)) as [
      number,
      number,
      number,
    ];
  };
  for (const part of [0, 1])
    for (let at = 0; at < 8; at++) lines.push(`v ${point(...corner(part, at)).join(' ')}`);
  const faces = [
    [1, 3, 4, 2],
    [5, 6, 8, 7],
    [1, 2, 6, 5],
    [3, 7, 8, 4],
    [1, 5, 7, 3],
    [2, 4, 8, 6],
  ];
  for (const part of parts) {
    lines.push(`g ${names[part] ?? ''}`, `usemtl ${materials[part] ?? ''}`);
    for (const face of faces) {
      const order = isTurnedOver ? [...face].reverse() : face;
      lines.push(`f ${order.map((vertex) => vertex + part * 8).join(' ')}`);
    }
  }
  return bytes(`${lines.join('\n')}\n`);
}

const mtl = bytes(
  'newmtl wood\nKd 0.5 0.3 0.1\n\nnewmtl iron\nKd 0.2 0.2 0.2\n\nnewmtl rope\nKd 0.9 0.8 0.6\n',
);
const resolve = (reference: string): Promise<Uint8Array | null> =>
  Promise.resolve(reference === 'a.mtl' ? mtl : null);

async function said(
  old: Uint8Array,
  now: Uint8Array,
  path = 'a.obj',
): Promise<{ nature: string; sentence: string }> {
  return compareBytes({ bytes: old, path, resolve }, { bytes: now, path, resolve });
}
const print = async (content: Uint8Array, path: string): Promise<string | null> =>
  fingerprintOf(await readBytes(content, path));

describe('what is said of models', () => {
  const base = obj();
  const sayings: [name: string, now: Uint8Array, sentence: RegExp, nature: string][] = [
    [
      'another material on a part',
      obj({ materials: ['wood', 'rope'] }),
      /“rope” instead of “iron” on part “lamp”/,
      'other',
    ],
    [
      'materials of two parts swapped',
      obj({ materials: ['iron', 'wood'] }),
      /materials “\w+” and “\w+” swapped on parts “\w+” and “\w+”/,
      'other',
    ],
    [
      'faces seen from the other side',
      obj({ isTurnedOver: true }),
      /^The same shape, all faces seen from the other side\.$/,
      'other',
    ],
    [
      'a part renamed',
      obj({ names: ['hull', 'lantern'] }),
      /^The same shape, part “lamp” renamed to “lantern”\.$/,
      'other',
    ],
    ['a part gone', obj({ parts: [0] }), /^All other parts are the same, part “lamp” gone/, 'other'],
    [
      'mirrored',
      obj({ point: (x, y, z) => [-x, y, z], isTurnedOver: true }),
      /^The same shape, mirrored along [XYZ]/,
      'placed otherwise',
    ],
    [
      'twice as large',
      obj({ point: (x, y, z) => [2 * x, 2 * y, 2 * z] }),
      /^The same shape, twice as large\.$/,
      'placed otherwise',
    ],
    [
      'half as large',
      obj({ point: (x, y, z) => [x / 2, y / 2, z / 2] }),
      /^The same shape, half as large\.$/,
      'placed otherwise',
    ],
    [
      'moved',
      obj({ point: (x, y, z) => [x + 3, y, z] }),
      /^The same shape, moved by 3 units\.$/,
      'placed otherwise',
    ],
  ];
  for (const [name, now, sentence, nature] of sayings)
    it(`${name}, and another fingerprint`, async () => {
      const comparison = await said(base, now);
      expect(comparison.sentence).to.match(sentence);
      expect(comparison.nature, comparison.sentence).to.equal(nature);
      expect(await print(base, 'a.obj')).not.to.equal(await print(now, 'a.obj'));
    });

  it('nothing of normals that the file does not have', async () => {
    const rounded = obj({ point: (x, y, z) => [x + 1e-7, y - 1e-7, z] });
    expect((await said(base, rounded)).sentence).to.equal('The same shape.');
  });

  const triangle = Buffer.from(new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]).buffer).toString('base64');
  const scene = (change: (json: Record<string, unknown>) => void = () => undefined): Uint8Array => {
    const json: Record<string, unknown> = {
      asset: { version: '2.0', generator: 'by hand' },
      scene: 0,
      scenes: [{ nodes: [0, 1] }],
      nodes: [
        { name: 'hull', mesh: 0, extras: { weight: 7 } },
        { name: 'view', camera: 0 },
      ],
      meshes: [{ name: 'hull mesh', primitives: [{ attributes: { POSITION: 0 }, material: 0 }] }],
      materials: [{ name: 'wood' }, { name: 'spare' }],
      cameras: [{ name: 'far', type: 'perspective', perspective: { yfov: 0.7, znear: 0.1 } }],
      accessors: [
        { bufferView: 0, componentType: 5126, count: 3, type: 'VEC3', min: [0, 0, 0], max: [1, 1, 0] },
      ],
      bufferViews: [{ buffer: 0, byteLength: 36 }],
      buffers: [{ byteLength: 36, uri: `data:application/octet-stream;base64,${triangle}` }],
    };
    change(json);
    return bytes(JSON.stringify(json));
  };
  const edit = (kind: string, at: number, values: object) => (json: Record<string, unknown>) =>
    void Object.assign((json[kind] as object[])[at] ?? {}, values);

  const files: [name: string, now: Uint8Array, sentence: RegExp][] = [
    [
      'extras changed',
      scene(edit('nodes', 0, { extras: { weight: 8 } })),
      /“extras\.nodes hull\.weight” 7 → 8/,
    ],
    [
      'extras new',
      scene(edit('meshes', 0, { extras: { heavy: true } })),
      /“extras\.meshes hull mesh” new: \{heavy: true\}/,
    ],
    ['a mesh renamed', scene(edit('meshes', 0, { name: 'keel' })), /“hull mesh” renamed to “keel”/],
    [
      'a camera changed',
      scene(edit('cameras', 0, { perspective: { yfov: 0.9, znear: 0.1 } })),
      /“cameras\[\w*=?far\]\.perspective\.yfov” 0\.7 → 0\.9|yfov” 0\.7 → 0\.9/,
    ],
    [
      'a material that nothing wears',
      scene(edit('materials', 1, { name: 'rope' })),
      /material “spare” renamed to “rope”/,
    ],
    [
      'a node without a shape renamed',
      scene(edit('nodes', 1, { name: 'look' })),
      /node “view” renamed to “look”/,
    ],
  ];
  for (const [name, now, sentence] of files)
    it(`${name}, and another fingerprint`, async () => {
      const { nature, sentence: found } = await said(scene(), now, 'a.gltf');
      expect(found).to.match(sentence);
      expect(nature).to.equal('other');
      expect(await print(scene(), 'a.gltf')).not.to.equal(await print(now, 'a.gltf'));
    });

  it('the program that wrote a file is no content of it', async () => {
    const now = scene((json) => (json.asset = { version: '2.0', generator: 'another' }));
    expect(await print(scene(), 'a.gltf')).to.equal(await print(now, 'a.gltf'));
  });
});
