import {
  BufferAttribute,
  BufferGeometry,
  DoubleSide,
  Mesh,
  MeshLambertMaterial,
  SRGBColorSpace,
  TextureLoader,
  type Texture,
} from 'three';
import type { GroundExtent, GroundLevels, HeightField } from '../../../core/kinds/map/ground/height-field.ts';

const flat: HeightField = { columns: 2, rows: 2, values: new Float32Array(4) };

/** The shape of a ground, and of the heights between its corners no more than so many a side. */
export function groundGeometry(
  field: HeightField | null,
  { x, z, width, depth, isFlipped }: GroundExtent,
  { lowest, highest }: GroundLevels,
  mostOfSide: number,
): BufferGeometry {
  const { columns: wide, rows: deep, values } = field ?? flat;
  const [columns, rows] = [Math.min(wide, mostOfSide), Math.min(deep, mostOfSide)];
  const positions = new Float32Array(columns * rows * 3);
  const uvs = new Float32Array(columns * rows * 2);
  for (let row = 0; row < rows; row++)
    for (let column = 0; column < columns; column++) {
      const at = row * columns + column;
      const [u, v] = [column / Math.max(1, columns - 1), row / Math.max(1, rows - 1)];
      const value = values[Math.round(v * (deep - 1)) * wide + Math.round(u * (wide - 1))] ?? 0;
      positions.set(
        [
          x + (u - 0.5) * width,
          lowest + value * (highest - lowest),
          z + ((isFlipped ? 1 - v : v) - 0.5) * depth,
        ],
        at * 3,
      );
      uvs.set([u, 1 - v], at * 2);
    }
  const indices = new Uint32Array(Math.max(0, columns - 1) * Math.max(0, rows - 1) * 6);
  for (let row = 0, at = 0; row < rows - 1; row++)
    for (let column = 0; column < columns - 1; column++, at += 6) {
      const [a, b] = [row * columns + column, row * columns + column + 1];
      const [c, d] = [a + columns, b + columns];
      // Seen from above whichever way its rows go.
      indices.set(isFlipped ? [a, b, c, b, d, c] : [a, c, b, b, c, d], at);
    }
  const geometry = new BufferGeometry();
  geometry.setAttribute('position', new BufferAttribute(positions, 3));
  geometry.setAttribute('uv', new BufferAttribute(uvs, 2));
  geometry.setIndex(new BufferAttribute(indices, 1));
  geometry.computeVertexNormals();
  return geometry;
}

/** A ground that is drawn under a map. */
export class GroundMesh {
  readonly mesh: Mesh<BufferGeometry, MeshLambertMaterial>;
  private texture: Texture | null = null;
  private isClosed = false;

  /** @param colour of what has no picture */
  constructor(geometry: BufferGeometry, colour: string) {
    const material = new MeshLambertMaterial({ color: colour, side: DoubleSide });
    this.mesh = new Mesh(geometry, material);
    this.mesh.name = 'ground';
  }

  /** Lays a picture over it. @throws Error that says why it cannot be shown */
  async cover(address: string): Promise<void> {
    const texture = await new TextureLoader()
      .loadAsync(address)
      .catch(() => Promise.reject(new Error('the picture of the ground cannot be shown')));
    if (this.isClosed) {
      texture.dispose();
      return;
    }
    texture.colorSpace = SRGBColorSpace;
    this.texture = texture;
    const { material } = this.mesh;
    material.map = texture;
    material.color.set(0xffffff);
    material.needsUpdate = true;
  }

  close(): void {
    this.isClosed = true;
    this.mesh.removeFromParent();
    this.mesh.geometry.dispose();
    this.mesh.material.dispose();
    this.texture?.dispose();
  }
}
