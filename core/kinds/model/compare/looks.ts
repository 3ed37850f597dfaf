import { lengthText, percentText, type LengthUnit } from '../../comparing.ts';
import type { TriangleBatch } from '../triangles.ts';
import { CornerPlaces } from './corner-places.ts';
import { clearPlaces, isTurnedOver, mostPartners, windingName } from './faces.ts';
import type { SharedTriangles } from './shared-triangles.ts';
import { oneSided, vertexDifference, weightsBetween, type Pair } from './vertex-difference.ts';
import { fieldOf, type Surface } from './surface.ts';
import { boneNumbers, vertexDataOf, type VertexData } from './vertex-data.ts';

/** Triangles that only one file has are looked at where the other one is nearest; so many, of more every n-th. */
const mostAsked = 10_000;
/** Of triangles that only one file has: where these lie near a seam of the other one, they do not count. */
const seamShare = 0.01;

/** What the vertices of two surfaces have besides their places, and what of it differs. */
export interface LookDifference {
  name: string;
  status: 'added' | 'gone' | 'changed';
  /** Of the triangles that were looked at. */
  share: number;
  /** In units of what it is: of the picture, degrees, of full colour, metres; null where it is there on one side only. */
  greatest: number | null;
}

export interface LookedAt {
  surface: Surface;
  batches: readonly TriangleBatch[];
}

/**
 * Compares UVs, normals, vertex colours, weights and morph targets of triangles that lie at one place, by the corners
 * which they share; of the same surface in other triangles, by the nearest place.
 * @param oldNameOf what a bone of the newer one was called in the older one
 */
export function compareLooks(
  old: LookedAt,
  now: LookedAt,
  shared: SharedTriangles,
  isSameSurface: boolean,
  oldNameOf: (bone: string) => string,
): LookDifference[] {
  const numbers = boneNumbers(oldNameOf);
  const before = vertexDataOf(old.batches, numbers.old);
  const after = vertexDataOf(now.batches, numbers.now);
  const names = [...after.keys()].filter((name) => before.has(name));
  const pairs = names.slice(0, 64).map((name) => ({
    name,
    tolerance: toleranceOf(name, old.surface.diagonal),
    old: before.get(name) as VertexData,
    now: after.get(name) as VertexData,
  }));
  let [turned, turnedAsked] = [0, 0];
  const isClear = clearPlaces(shared);
  const places = new CornerPlaces(old.surface, now.surface, shared, pairs);
  const exact = pairs.map(() => ({ differing: 0, greatest: 0 }));
  const nearest = pairs.map(() => ({ differing: 0, greatest: 0 }));
  const own: number[] = [];
  let asked = 0;
  const found = new Float64Array(pairs.length);
  const best = new Float64Array(pairs.length);
  for (let triangle = 0; triangle < shared.partners.length; triangle++) {
    let partner = shared.partners[triangle] ?? -1;
    if (partner < 0) {
      own.push(triangle);
      continue;
    }
    // Where not as many lie as lay, nobody knows which is which.
    if (!isClear(partner)) continue;
    asked++;
    // Triangles may lie on one another, front and back: the one that fits best.
    let [least, isTurned] = [Infinity, false];
    for (
      let tried = 0;
      partner >= 0 && least > 0 && tried < mostPartners;
      tried++, partner = shared.next[partner] ?? -1
    ) {
      const turn = isTurnedOver(triangle, partner, old.surface, now.surface, shared);
      // Of two that fit as well, the one that looks the same way.
      const misfit =
        cornerDifferences(triangle, partner, old.surface, now.surface, shared, pairs, found) +
        (turn === true ? 0.001 : 0);
      if (misfit >= least) continue;
      least = misfit;
      isTurned = turn === true;
      best.set(found);
    }
    places.forgive(triangle, best);
    count(best, pairs, exact);
    turnedAsked++;
    if (isTurned) turned++;
  }
  const winding = turned / Math.max(1, turnedAsked);
  const oneSided = [...oneSidedOf(before, after, 'gone'), ...oneSidedOf(after, before, 'added')];
  const windingLook: LookDifference[] =
    winding > 0 ? [{ name: windingName, status: 'changed', share: winding, greatest: null }] : [];
  const results = pairs.map(({ name }, at) => {
    const result = resultOf(name, exact[at], asked, 0);
    // Normals that are made of the faces turn with them.
    return name === 'normals' && result.share <= winding * 1.02 ? { ...result, share: 0 } : result;
  });
  if (!isSameSurface || own.length === 0)
    return [...oneSided, ...windingLook, ...results.filter(({ share }) => share > 0)];
  const every = Math.max(1, Math.ceil(own.length / mostAsked));
  let [nearestCount, turnedNear] = [0, 0];
  for (let at = 0; at < own.length; at += every) {
    const facing = nearestDifferences(own[at] ?? 0, old.surface, now.surface, pairs, found);
    if (facing === null) continue;
    if (facing < -0.5) turnedNear++;
    nearestCount++;
    places.forgive(own[at] ?? 0, found);
    count(found, pairs, nearest);
  }
  // Where sides lie on one another either may be the nearest: only most of them tell.
  if (windingLook.length === 0 && turnedNear > nearestCount * 0.5)
    windingLook.push({
      name: windingName,
      status: 'changed',
      share: turnedNear / nearestCount,
      greatest: null,
    });
  pairs.forEach(({ name }, at) => {
    const result = resultOf(name, nearest[at], nearestCount, seamShare);
    if (result.share > (results[at]?.share ?? 0)) results[at] = result;
  });
  return [...oneSided, ...windingLook, ...results.filter(({ share }) => share > 0)];
}

/** UV sets and colours are among the facts of a model. */
function oneSidedOf(
  all: ReadonlyMap<string, unknown>,
  others: ReadonlyMap<string, unknown>,
  status: 'added' | 'gone',
): LookDifference[] {
  return [...all.keys()]
    .filter((name) => !others.has(name) && !name.startsWith('UV') && !name.startsWith('vertex'))
    .map((name) => ({ name, status, share: 1, greatest: null }));
}

interface Count {
  differing: number;
  greatest: number;
}

function resultOf(name: string, count: Count | undefined, asked: number, least: number): LookDifference {
  const share = (count?.differing ?? 0) / Math.max(1, asked);
  return {
    name,
    status: 'changed',
    share: share > least ? share : 0,
    greatest: count && count.greatest > 0 ? count.greatest : null,
  };
}

/** What the usual packing of numbers leaves (8 bits of colours and weights, 10 of normals, 12 of UVs) is no difference. */
function toleranceOf(name: string, diagonal: number): number {
  if (name.startsWith('UV')) return 1 / 1500;
  if (name === 'normals') return 0.035;
  if (name.startsWith('morph')) return diagonal / 10_000;
  return 0.012;
}

function count(differences: Float64Array, pairs: readonly Pair[], counts: Count[]): void {
  pairs.forEach(({ tolerance }, at) => {
    const difference = differences[at] ?? 0;
    const sum = counts[at];
    if (difference <= tolerance || !sum) return;
    sum.differing++;
    if (Number.isFinite(difference)) sum.greatest = Math.max(sum.greatest, difference);
  });
}

/** Of one corner, as it is tried and as it fits best; more kinds of data than these no vertex has. */
const [ofCorner, closest] = [new Float64Array(64), new Float64Array(64)];

/** Fills in the greatest difference of any corner. @returns how badly they fit, all told */
function cornerDifferences(
  triangle: number,
  partner: number,
  old: Surface,
  now: Surface,
  shared: SharedTriangles,
  pairs: readonly Pair[],
  found: Float64Array,
): number {
  found.fill(0);
  for (let corner = 0; corner < 3; corner++) {
    const vertex = now.indices[triangle * 3 + corner] ?? 0;
    const key = shared.newVertices[vertex];
    // Two corners of a triangle without an area lie at one place: the one that fits best.
    let least = Infinity;
    for (let other = 0; other < 3; other++) {
      const oldVertex = old.indices[partner * 3 + other] ?? 0;
      if (shared.oldVertices[oldVertex] !== key) continue;
      let sum = 0;
      for (let at = 0; at < pairs.length; at++) {
        ofCorner[at] = vertexDifference(pairs[at] as Pair, oldVertex, vertex);
        sum += Math.min(1e6, (ofCorner[at] ?? 0) / (pairs[at]?.tolerance ?? 1));
      }
      if (sum >= least) continue;
      least = sum;
      closest.set(ofCorner.subarray(0, pairs.length));
    }
    if (least === Infinity) continue;
    for (let at = 0; at < pairs.length; at++)
      if ((closest[at] ?? 0) > (found[at] ?? 0)) found[at] = closest[at] ?? 0;
  }
  let misfit = 0;
  for (let at = 0; at < pairs.length; at++)
    misfit += Math.min(1e6, (found[at] ?? 0) / (pairs[at]?.tolerance ?? 1));
  return misfit;
}

/**
 * The same at the middle of a triangle and the place of the older surface that is nearest to it.
 * @returns how far both look the same way, from 1 to -1; null of what has no area
 */
function nearestDifferences(
  triangle: number,
  old: Surface,
  now: Surface,
  pairs: readonly Pair[],
  found: Float64Array,
): number | null {
  const corners = [0, 1, 2].map((corner) => now.indices[triangle * 3 + corner] ?? 0);
  const middle = [0, 1, 2].map((axis) =>
    corners.reduce((sum, vertex) => sum + (now.positions[vertex * 3 + axis] ?? 0) / 3, 0),
  );
  const hit = fieldOf(old).nearest(middle[0] ?? 0, middle[1] ?? 0, middle[2] ?? 0);
  const shares = hit ? barycentric(old, hit.corners, [hit.point.x, hit.point.y, hit.point.z]) : null;
  if (!hit || !shares) return null;
  pairs.forEach((pair, at) => {
    const { old: before, now: after } = pair;
    if (after.isWeights) {
      found[at] = weightsBetween(pair, hit.corners, shares, corners);
      return;
    }
    let sum = 0;
    for (let part = 0; part < after.size; part++) {
      const then = hit.corners.reduce(
        (value, vertex, corner) =>
          value + (before.values[vertex * before.size + part] ?? 0) * (shares[corner] ?? 0),
        0,
      );
      const value = corners.reduce(
        (value, vertex) => value + (after.values[vertex * after.size + part] ?? 0) / 3,
        0,
      );
      sum += (value - then) ** 2;
    }
    found[at] = Number.isNaN(sum) ? oneSided(before, hit.corners[0], after, corners[0] ?? 0) : Math.sqrt(sum);
  });
  return facingOf(old, hit.corners, now, corners);
}

/** Cosine between the sides from which two triangles are seen. */
function facingOf(
  old: Surface,
  oldCorners: readonly number[],
  now: Surface,
  corners: readonly number[],
): number {
  const normal = (
    { positions }: Surface,
    [a = 0, b = 0, c = 0]: readonly number[],
  ): [number, number, number] => {
    const edge = (to: number, axis: number): number =>
      (positions[to * 3 + axis] ?? 0) - (positions[a * 3 + axis] ?? 0);
    const [x, y, z] = [
      edge(b, 1) * edge(c, 2) - edge(b, 2) * edge(c, 1),
      edge(b, 2) * edge(c, 0) - edge(b, 0) * edge(c, 2),
      edge(b, 0) * edge(c, 1) - edge(b, 1) * edge(c, 0),
    ];
    const length = Math.hypot(x, y, z) || 1;
    return [x / length, y / length, z / length];
  };
  const [p, q] = [normal(old, oldCorners), normal(now, corners)];
  return p[0] * q[0] + p[1] * q[1] + p[2] * q[2];
}

/** Shares of the corners in a point of a triangle; null of a triangle without an area. */
function barycentric(
  { positions }: Surface,
  corners: readonly number[],
  point: readonly number[],
): number[] | null {
  const from = (which: number): number[] =>
    [0, 1, 2].map(
      (axis) =>
        (positions[(corners[which] ?? 0) * 3 + axis] ?? 0) - (positions[(corners[0] ?? 0) * 3 + axis] ?? 0),
    );
  const dot = (a: readonly number[], b: readonly number[]): number =>
    a.reduce((sum, value, at) => sum + value * (b[at] ?? 0), 0);
  const [u, v] = [from(1), from(2)];
  const p = point.map((value, axis) => value - (positions[(corners[0] ?? 0) * 3 + axis] ?? 0));
  const [uu, uv, vv, pu, pv] = [dot(u, u), dot(u, v), dot(v, v), dot(p, u), dot(p, v)];
  const area = uu * vv - uv * uv;
  if (!(area > 0)) return null;
  const [b, c] = [(pu * vv - pv * uv) / area, (pv * uu - pu * uv) / area];
  return [1 - b - c, b, c];
}

/** In words of a person: “UVs differ on 12 % of its triangles, by up to 0.25”. */
export function describeLook({ name, status, share, greatest }: LookDifference, lengths: LengthUnit): string {
  if (status !== 'changed') return `${name} ${status === 'added' ? 'new' : 'gone'}`;
  if (name === windingName)
    return share > 0.999
      ? 'all faces seen from the other side'
      : `${percentText(share)} of its faces seen from the other side`;
  const verb = name.startsWith('UV s') || name.startsWith('morph') ? 'differs' : 'differ';
  return `${name} ${verb} on ${percentText(share)} of its triangles${greatest === null ? '' : `, by up to ${amountText(name, greatest, lengths)}`}`;
}

function amountText(name: string, greatest: number, lengths: LengthUnit): string {
  if (name.startsWith('morph')) return lengthText(greatest, lengths);
  // Two unit vectors so far apart are at this angle.
  if (name === 'normals')
    return `${((2 * Math.asin(Math.min(1, greatest / 2)) * 180) / Math.PI).toFixed(0)}°`;
  return name.startsWith('UV')
    ? `${greatest.toFixed(greatest < 0.1 ? 3 : 2)} of the picture`
    : percentText(Math.min(1, greatest));
}
