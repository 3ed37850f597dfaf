import {
  Box3,
  Box3Helper,
  BufferGeometry,
  Color,
  Group,
  InstancedMesh,
  Line,
  LineBasicMaterial,
  Mesh,
  MeshBasicMaterial,
  OctahedronGeometry,
  SkeletonHelper,
  SkinnedMesh,
  Vector3,
  type Bone,
  type Object3D,
} from 'three';

/** Ink and accent of the plate. */
export interface OverlayColours {
  ink: string;
  accent: string;
}

/** What is drawn over a model: lines of triangles, bones, bounds, marks, a measured line. */
export class Overlays {
  readonly group = new Group();
  private readonly wires = new Map<Mesh, Mesh>();
  private readonly wire: MeshBasicMaterial;
  private readonly line: LineBasicMaterial;
  private readonly mark: Mesh;
  private skeleton: SkeletonHelper | null = null;
  private readonly boxes = new Map<string, Box3Helper>();
  private measured: Line | null = null;
  private bone: Bone | null = null;
  private readonly colours: OverlayColours;

  constructor(colours: OverlayColours) {
    this.colours = colours;
    this.wire = new MeshBasicMaterial({
      ...{ color: colours.ink, wireframe: true, transparent: true, opacity: 0.55, depthWrite: false },
      // Lines lie before the faces that they belong to.
      ...{ polygonOffset: true, polygonOffsetFactor: -1, polygonOffsetUnits: -1 },
    });
    this.line = new LineBasicMaterial({ color: colours.accent, depthTest: false, transparent: true });
    this.mark = new Mesh(
      new OctahedronGeometry(1),
      new MeshBasicMaterial({ color: colours.accent, depthTest: false, transparent: true }),
    );
    this.mark.renderOrder = 3;
    this.mark.visible = false;
    this.group.add(this.mark);
  }

  setWires(meshes: readonly Mesh[], isOn: boolean): void {
    for (const [mesh, lines] of this.wires) mesh.remove(lines);
    this.wires.clear();
    if (!isOn) return;
    for (const mesh of meshes) {
      let lines: Mesh;
      if (mesh instanceof SkinnedMesh) {
        const skinned = new SkinnedMesh(mesh.geometry, this.wire);
        skinned.bind(mesh.skeleton, mesh.bindMatrix);
        lines = skinned;
      } else if (mesh instanceof InstancedMesh) {
        const instances = new InstancedMesh(mesh.geometry, this.wire, mesh.count);
        instances.instanceMatrix = mesh.instanceMatrix;
        lines = instances;
      } else lines = new Mesh(mesh.geometry, this.wire);
      lines.userData.isOverlay = true;
      lines.frustumCulled = mesh.frustumCulled;
      if (mesh.morphTargetInfluences) lines.morphTargetInfluences = mesh.morphTargetInfluences;
      lines.raycast = () => undefined;
      mesh.add(lines);
      this.wires.set(mesh, lines);
    }
  }

  setBones(model: Object3D | null, bone: Bone | null): void {
    if (this.skeleton) {
      this.group.remove(this.skeleton);
      this.skeleton.dispose();
      this.skeleton = null;
    }
    if (model) {
      this.skeleton = new SkeletonHelper(model);
      this.skeleton.setColors(new Color(this.colours.ink), new Color(this.colours.accent));
      this.group.add(this.skeleton);
    }
    this.bone = bone;
  }

  /** @param metres how large the mark of the bone is */
  beforeDrawing(metres: number): void {
    this.mark.visible = this.bone !== null;
    if (!this.bone) return;
    this.bone.getWorldPosition(this.mark.position);
    this.mark.scale.setScalar(metres);
  }

  /** A box around something; null takes it away. @returns whether there is one, or was one */
  setBox(name: 'all' | 'part' | 'mark', box: Box3 | null): boolean {
    const known = this.boxes.get(name);
    if (known) {
      this.group.remove(known);
      known.dispose();
      this.boxes.delete(name);
    }
    if (!box || box.isEmpty()) return known !== undefined;
    const helper = new Box3Helper(box, new Color(name === 'all' ? this.colours.ink : this.colours.accent));
    helper.raycast = () => undefined;
    this.boxes.set(name, helper);
    this.group.add(helper);
    return true;
  }

  setMeasured(points: readonly Vector3[]): void {
    if (this.measured) {
      this.group.remove(this.measured);
      this.measured.geometry.dispose();
      this.measured = null;
    }
    const [first] = points;
    if (!first) return;
    this.measured = new Line(new BufferGeometry().setFromPoints([first, points[1] ?? first]), this.line);
    this.measured.renderOrder = 2;
    this.group.add(this.measured);
  }

  clear(): void {
    this.setWires([], false);
    this.setBones(null, null);
    this.setBox('all', null);
    this.setBox('part', null);
    this.setBox('mark', null);
    this.setMeasured([]);
  }

  close(): void {
    this.clear();
    this.wire.dispose();
    this.line.dispose();
    this.mark.geometry.dispose();
    (this.mark.material as MeshBasicMaterial).dispose();
  }
}
