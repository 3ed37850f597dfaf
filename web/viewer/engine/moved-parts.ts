import { MathUtils, Quaternion, SkinnedMesh, Vector3, type Mesh, Euler } from 'three';

/** Where a part stands beside its own place. */
export interface PartMove {
  /** Metres along the axes of what it hangs on. */
  place: readonly [number, number, number];
  /** About x, then y, then z of its own. */
  turnDegrees: readonly [number, number, number];
  scale: number;
}

interface Rest {
  position: Vector3;
  quaternion: Quaternion;
  scale: Vector3;
}

/** Moves parts, and puts them back exactly where they were. */
export class MovedParts {
  private readonly rest = new Map<Mesh, Rest>();

  /** @param moves by part; all others stand where their file says */
  set(moves: ReadonlyMap<Mesh, PartMove>): void {
    for (const [mesh, { position, quaternion, scale }] of this.rest) {
      mesh.position.copy(position);
      mesh.quaternion.copy(quaternion);
      mesh.scale.copy(scale);
    }
    for (const [mesh, { place, turnDegrees, scale }] of moves) {
      if (!this.rest.has(mesh))
        this.rest.set(mesh, {
          position: mesh.position.clone(),
          quaternion: mesh.quaternion.clone(),
          scale: mesh.scale.clone(),
        });
      mesh.position.add(new Vector3(...place));
      mesh.quaternion.multiply(
        new Quaternion().setFromEuler(
          new Euler(...(turnDegrees.map(MathUtils.degToRad) as [number, number, number]), 'XYZ'),
        ),
      );
      mesh.scale.multiplyScalar(scale);
    }
  }

  get hasMoved(): boolean {
    return this.rest.size > 0;
  }

  /** Forgets where parts were: another model stands here. */
  clear(): void {
    this.rest.clear();
  }
}

/** Skinned parts follow their bones, wherever their node is. */
export function canBeMoved(mesh: Mesh): boolean {
  return !(mesh instanceof SkinnedMesh);
}
