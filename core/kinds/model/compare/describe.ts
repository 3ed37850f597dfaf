import type { ClipDetail, ModelDetail, NodeChanges } from '../../../../contract/comparisons.ts';
import { plural, secondsText } from '../../../figures.ts';
import { metresText, percentText } from '../../comparing.ts';
import type { factsOfModel } from '../read.ts';
import { describeLook, type LookDifference } from './looks.ts';
import { describePoints, type PointDifference } from './points.ts';
import { describeMove, describePose } from './describe-pose.ts';

export type ModelFacts = ReturnType<typeof factsOfModel>;

/** All that was found of two models. */
export interface Changes {
  detail: ModelDetail;
  isSameSurface: boolean;
  /** Neither has anything to draw. */
  isClip: boolean;
  looks: readonly LookDifference[];
  /** Parts of a sentence. */
  materials: readonly string[];
  /** Triangles that are nowhere, of the older and the newer one. */
  unplaced: readonly [old: number, now: number];
  points: PointDifference | null;
}

/** Parts of a sentence: what became of the shape, and what else differs. Without others there is nothing else. */
export function describeModel(
  changes: Changes,
  [old, now]: readonly [ModelFacts, ModelFacts],
): { shape: string[]; others: string[] } {
  const { parts, bones, nodes, placed, clips } = changes.detail;
  const others: string[] = [];
  const names = (status: 'added' | 'gone'): string[] =>
    parts.filter((part) => part.status === status).map(({ name }) => name);
  others.push(...describeList(names('added'), 'part', 'new'), ...describeList(names('gone'), 'part', 'gone'));
  others.push(
    ...describeRenamed(parts.map(({ name }) => name.split(' → ')).filter(({ length }) => length === 2)),
  );
  others.push(...changes.materials);
  others.push(...changes.looks.map(describeLook));
  others.push(
    ...describeNodes(bones, 'bone', placed !== null),
    ...describeNodes(nodes, 'node', placed !== null),
  );
  others.push(...clips.flatMap(describeClip));
  const [before, after] = [old.uvSets, now.uvSets];
  if (before !== after)
    others.push(`${plural(Math.abs(after - before), 'UV set')} ${after > before ? 'more' : 'fewer'}`);
  if (old.hasColours !== now.hasColours)
    others.push(now.hasColours ? 'with vertex colours now' : 'without vertex colours now');
  const [nowhere, nowhereNow] = changes.unplaced;
  if (nowhere === nowhereNow && nowhere > 0)
    others.push(`${plural(nowhere, 'triangle')} nowhere in both, which cannot be compared`);
  if (nowhere !== nowhereNow)
    others.push(`${plural(nowhereNow, 'triangle')} nowhere instead of ${nowhere.toLocaleString('en')}`);
  const points = changes.points ? describePoints(changes.points) : '';
  if (points !== '') others.push(points);
  return { shape: describeShape(changes, old, now, others.length === 0), others };
}

function describeShape(
  { detail: { surface, placed }, isSameSurface, isClip, points, unplaced }: Changes,
  old: ModelFacts,
  now: ModelFacts,
  isAll: boolean,
): string[] {
  if (placed) return [describePlacement(placed)];
  if (isSameSurface)
    return [
      old.triangles === now.triangles
        ? 'the same shape'
        : `the same shape in ${now.triangles.toLocaleString('en')} triangles instead of ${old.triangles.toLocaleString('en')}`,
    ];
  if (surface)
    return [
      `the surface is up to ${metresText(surface.greatestMetres)} off (${percentText(surface.share)} of its size)${surface.part === '' ? '' : `, at ${surface.part}`}`,
    ];
  if (old.triangles - unplaced[0] > 0) return ['it has no surface any more'];
  if (now.triangles - unplaced[1] > 0) return ['it has a surface now'];
  if (!isAll) return [];
  if (points) return [`the same ${plural(points.new, 'point')}`];
  return [isClip ? 'the same poses' : 'nothing is drawn of either'];
}

function describePlacement({ scale, offsetMetres, isTurned }: NonNullable<ModelDetail['placed']>): string {
  const parts: string[] = [];
  if (Math.abs(scale - 1) > 0.002) parts.push(`${Number(scale.toPrecision(3))} times as large`);
  if (isTurned) parts.push('turned by quarters');
  const far = Math.hypot(...offsetMetres);
  if (parts.length === 0 || (far > 0.001 && !isTurned))
    parts.push(`${metresText(far)} away from where it was`);
  return `the same shape, ${parts.join(' and ')}`;
}

/** Where a model as a whole stands elsewhere, its nodes do so too. */
function describeNodes(
  { added, gone, reparented, moved }: NodeChanges,
  noun: string,
  isPlaced: boolean,
): string[] {
  const said = [...describeList(added, noun, 'new'), ...describeList(gone, noun, 'gone')];
  const [first] = reparented;
  if (first)
    said.push(
      reparented.length === 1
        ? `${noun} ${first.bone} hangs on ${first.to || 'nothing'} instead of ${first.from || 'nothing'}`
        : `${reparented.length} ${noun}s hang on others`,
    );
  const [far] = moved;
  if (far && !isPlaced)
    said.push(`${plural(moved.length, noun)} moved, ${far.bone} ${describeMove(far.metres, far.degrees)}`);
  return said;
}

/** Names where they are few, else how many. */
export function describeList(names: readonly string[], noun: string, what: string): string[] {
  if (names.length === 0) return [];
  return [
    names.length <= 2
      ? `${noun}${names.length === 1 ? '' : 's'} ${names.join(' and ')} ${what}`
      : `${names.length} ${noun}s ${what}`,
  ];
}

function describeRenamed(pairs: readonly string[][]): string[] {
  const [[old, now] = []] = pairs;
  if (pairs.length === 0) return [];
  return [
    pairs.length === 1
      ? `part ${old ?? ''} is called ${now ?? ''} now`
      : `${pairs.length} parts are called otherwise`,
  ];
}

function describeClip(clip: ClipDetail): string[] {
  const { name, status, oldSeconds, newSeconds } = clip;
  if (status === 'same') return [];
  if (status !== 'changed') return [`clip ${name} ${status === 'added' ? 'new' : 'gone'}`];
  const length =
    Math.abs((oldSeconds ?? 0) - (newSeconds ?? 0)) > 1e-3
      ? `clip ${name} ${secondsText(oldSeconds ?? 0)} → ${secondsText(newSeconds ?? 0)}`
      : '';
  const pose = describePose(clip);
  return [
    [length, pose === '' ? '' : `${length === '' ? `clip ${name}: ` : ''}${pose}`].filter(Boolean).join(', '),
  ];
}
