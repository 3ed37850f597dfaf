import {
  MathUtils,
  type Animation,
  type AnimationSampler,
  type Document,
  type Node,
  type mat4,
  type vec3,
  type vec4,
} from '@gltf-transform/core';
import { elements, multiply } from '../triangles.ts';

type Path = 'translation' | 'rotation' | 'scale';

const sizes = { translation: 3, rotation: 4, scale: 3, weights: 1 } as const;

interface Track {
  times: Float32Array;
  values: Float32Array;
  size: number;
  isStep: boolean;
  isCubic: boolean;
}

/** A clip of a document, to be asked where its nodes are at a moment. */
export class Pose {
  /** From its first key, in seconds. */
  readonly seconds: number;
  private readonly first: number;
  private readonly tracks = new Map<Node, Partial<Record<Path, Track>>>();
  private readonly morphs = new Map<Node, Track>();
  private readonly roots: readonly Node[];
  /** Made once: without names of their own, nodes are looked for among their sisters. */
  private readonly names = new Map<Node, string>();

  constructor(document: Document, animation: Animation) {
    let [first, last] = [Infinity, -Infinity];
    for (const channel of animation.listChannels()) {
      const node = channel.getTargetNode();
      const sampler = channel.getSampler();
      const path = channel.getTargetPath();
      if (!node || !sampler || !path || !(path in sizes)) continue;
      const track = trackOf(sampler, path === 'weights' ? morphCount(sampler) : sizes[path]);
      if (track.times.length === 0) continue;
      first = Math.min(first, track.times[0] ?? 0);
      last = Math.max(last, track.times.at(-1) ?? 0);
      if (path === 'weights') this.morphs.set(node, track);
      else this.tracks.set(node, { ...this.tracks.get(node), [path]: track });
    }
    this.first = Number.isFinite(first) ? first : 0;
    this.seconds = last > first ? last - first : 0;
    for (const node of document.getRoot().listNodes()) this.names.set(node, nameOfNode(node));
    this.roots = document
      .getRoot()
      .listScenes()
      .flatMap((scene) => scene.listChildren());
  }

  /** World matrices of all nodes by name, or by place where they have none, so many seconds after the first key. */
  matricesAt(seconds: number): Map<string, mat4> {
    const matrices = new Map<string, mat4>();
    const time = this.first + seconds;
    const visit = (node: Node, above: mat4 | null): void => {
      const tracks = this.tracks.get(node);
      const local = MathUtils.compose(
        (valueAt(tracks?.translation, time) ?? node.getTranslation()) as vec3,
        (rotationAt(tracks?.rotation, time) ?? node.getRotation()) as vec4,
        (valueAt(tracks?.scale, time) ?? node.getScale()) as vec3,
        [] as unknown as mat4,
      );
      const world = above ? multiply(above, local) : local;
      matrices.set(this.names.get(node) ?? '', world);
      for (const child of node.listChildren()) visit(child, world);
    };
    for (const root of this.roots) visit(root, null);
    return matrices;
  }

  /** Shares of morph targets by the name of the node that they move. */
  weightsAt(seconds: number): Map<string, readonly number[]> {
    return new Map(
      [...this.morphs].map(([node, track]) => [
        this.names.get(node) ?? '',
        valueAt(track, this.first + seconds) ?? [],
      ]),
    );
  }
}

/** One without a name goes by its place among its sisters. */
export function nameOfNode(node: Node): string {
  if (node.getName() !== '') return node.getName();
  const parent = node.getParentNode();
  return parent ? `${nameOfNode(parent)}/${parent.listChildren().indexOf(node)}` : '0';
}

/** Weights of all targets stand side by side at each key (glTF 2.0, section 3.11). */
function morphCount(sampler: AnimationSampler): number {
  const keys = (sampler.getInput()?.getCount() ?? 0) * (sampler.getInterpolation() === 'CUBICSPLINE' ? 3 : 1);
  return Math.max(1, Math.floor((sampler.getOutput()?.getCount() ?? 0) / Math.max(1, keys)));
}

function trackOf(sampler: AnimationSampler, size: number): Track {
  const output = sampler.getOutput();
  const input = sampler.getInput();
  const values = output ? elements(output) : new Float32Array(0);
  const times = input ? elements(input) : new Float32Array(0);
  return {
    times,
    values,
    size,
    isStep: sampler.getInterpolation() === 'STEP',
    isCubic: sampler.getInterpolation() === 'CUBICSPLINE',
  };
}

/** Interpolation of glTF 2.0, appendix C: step, linear, or cubic Hermite with tangents by the second. */
function valueAt(track: Track | undefined, time: number): number[] | null {
  if (!track) return null;
  const { index, part, span } = placeOf(track.times, time);
  const { size, values } = track;
  const key = (at: number, offset = track.isCubic ? 1 : 0): number[] => {
    const from = (track.isCubic ? at * 3 + offset : at) * size;
    return [...values.subarray(from, from + size)];
  };
  if (part === 0 || track.isStep) return key(index);
  const [a, b] = [key(index), key(index + 1)];
  if (!track.isCubic) return a.map((value, at) => value + ((b[at] ?? 0) - value) * part);
  const [out, into] = [key(index, 2), key(index + 1, 0)];
  const [t2, t3] = [part ** 2, part ** 3];
  return a.map(
    (value, at) =>
      (2 * t3 - 3 * t2 + 1) * value +
      span * (t3 - 2 * t2 + part) * (out[at] ?? 0) +
      (-2 * t3 + 3 * t2) * (b[at] ?? 0) +
      span * (t3 - t2) * (into[at] ?? 0),
  );
}

/** Quaternions go the shorter way round (glTF 2.0, appendix C.4); cubic ones are made a unit again. */
function rotationAt(track: Track | undefined, time: number): number[] | null {
  if (!track) return null;
  const { index, part } = placeOf(track.times, time);
  if (track.isStep || track.isCubic || part === 0) {
    const value = valueAt(track, time) ?? [0, 0, 0, 1];
    const length = Math.hypot(...value) || 1;
    return value.map((component) => component / length);
  }
  const a = [...track.values.subarray(index * 4, index * 4 + 4)];
  let b = [...track.values.subarray(index * 4 + 4, index * 4 + 8)];
  let cosine = a.reduce((sum, value, at) => sum + value * (b[at] ?? 0), 0);
  if (cosine < 0) {
    b = b.map((value) => -value);
    cosine = -cosine;
  }
  const angle = Math.acos(Math.min(1, cosine));
  const sine = Math.sin(angle);
  const [from, to] =
    sine < 1e-4 ? [1 - part, part] : [Math.sin((1 - part) * angle) / sine, Math.sin(part * angle) / sine];
  return a.map((value, at) => value * from + (b[at] ?? 0) * to);
}

/** The key before a time, and how much of the way to the next one is behind it. */
function placeOf(times: Float32Array, time: number): { index: number; part: number; span: number } {
  const last = times.length - 1;
  if (time <= (times[0] ?? 0)) return { index: 0, part: 0, span: 0 };
  if (time >= (times[last] ?? 0)) return { index: last, part: 0, span: 0 };
  let [low, high] = [0, last];
  while (high - low > 1) {
    const middle = (low + high) >> 1;
    if ((times[middle] ?? 0) <= time) low = middle;
    else high = middle;
  }
  const span = (times[high] ?? 0) - (times[low] ?? 0);
  return { index: low, part: span > 0 ? (time - (times[low] ?? 0)) / span : 0, span };
}
