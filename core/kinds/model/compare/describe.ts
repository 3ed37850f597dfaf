import type { ClipDetail, ModelDetail, NodeChanges } from '../../../../contract/comparisons.ts';
import { plural, secondsText } from '../../../figures.ts';
import { lengthText, named, percentText, timesText, type LengthUnit } from '../../comparing.ts';
import type { factsOfModel } from '../read.ts';
import { describeLook, type LookDifference } from './looks.ts';
import { unnamedPart } from './parts.ts';
import { describePoints, type PointDifference } from './points.ts';
import type { Aspect } from './unsaid.ts';
import { describeMove, describePose } from './describe-pose.ts';

export type ModelFacts = ReturnType<typeof factsOfModel>;

/** All that was found of two models. */
export interface Changes {
  detail: ModelDetail;
  isSameSurface: boolean;
  /** Neither has anything to draw. */
  isClip: boolean;
  looks: readonly LookDifference[];
  /** What only one of the two formats can say, and what there is of it in words. */
  skipped: ReadonlySet<Aspect>;
  unsaid: readonly string[];
  /** Parts of a sentence: of materials, of which part wears which, and of what the files say besides. */
  materials: readonly string[];
  worn: readonly string[];
  overlap: readonly string[];
  said: readonly string[];
  /** Triangles that are nowhere, of the older and the newer one. */
  unplaced: readonly [old: number, now: number];
  points: PointDifference | null;
}

/** Parts of a sentence: what became of the shape, and what else differs. Without others there is nothing else. */
export function describeModel(
  changes: Changes,
  [old, now]: readonly [ModelFacts, ModelFacts],
): { shape: string[]; others: string[] } {
  const { parts, bones, nodes, placed, clips, lengths } = changes.detail;
  const { skipped } = changes;
  const others: string[] = [];
  const names = (status: 'added' | 'gone'): string[] =>
    parts.filter((part) => part.status === status).map(({ name }) => name);
  others.push(...describeList(names('added'), 'part', 'new'), ...describeList(names('gone'), 'part', 'gone'));
  others.push(
    ...describeRenamed(parts.map(({ name }) => name.split(' → ')).filter(({ length }) => length === 2)),
  );
  others.push(...changes.overlap);
  others.push(...changes.materials, ...changes.worn, ...changes.said);
  others.push(...changes.looks.map((look) => describeLook(look, lengths)));
  others.push(
    ...describeNodes(bones, 'bone', placed !== null, lengths),
    ...describeNodes(nodes, 'node', placed !== null, lengths),
  );
  others.push(...clips.flatMap((clip) => describeClip(clip, lengths)));
  const [before, after] = [old.uvSets, now.uvSets];
  if (before !== after && !skipped.has('UVs'))
    others.push(`${plural(Math.abs(after - before), 'UV set')} ${after > before ? 'more' : 'fewer'}`);
  if (old.hasColours !== now.hasColours && !skipped.has('vertex colours'))
    others.push(now.hasColours ? 'with vertex colours now' : 'without vertex colours now');
  const [nowhere, nowhereNow] = changes.unplaced;
  if (nowhere === nowhereNow && nowhere > 0)
    others.push(`${plural(nowhere, 'triangle')} nowhere in both, which cannot be compared`);
  if (nowhere !== nowhereNow)
    others.push(`${plural(nowhereNow, 'triangle')} nowhere instead of ${nowhere.toLocaleString('en')}`);
  const points = changes.points ? describePoints(changes.points, lengths) : '';
  if (points !== '') others.push(points);
  others.push(...changes.unsaid);
  return { shape: describeShape(changes, old, now, others.length === 0), others };
}

function describeShape(
  { detail: { surface, placed, parts, lengths }, isSameSurface, isClip, points, unplaced }: Changes,
  old: ModelFacts,
  now: ModelFacts,
  isAll: boolean,
): string[] {
  if (placed) return [describePlacement(placed, lengths)];
  if (isSameSurface)
    return [
      old.triangles === now.triangles
        ? 'the same shape'
        : `the same shape in ${now.triangles.toLocaleString('en')} triangles instead of ${old.triangles.toLocaleString('en')}`,
    ];
  const common = parts.filter(({ status }) => status !== 'added' && status !== 'gone');
  // Where parts came or went and the others are the same, there is nothing more to say of the shape.
  if (
    surface &&
    common.length < parts.length &&
    common.length > 0 &&
    common.every(({ status }) => status === 'same')
  )
    return ['all other parts are the same'];
  if (surface)
    return [
      `the surface is up to ${lengthText(surface.greatestMetres, lengths)} off (${percentText(surface.share)} of its size)${surface.part === '' || surface.part === unnamedPart ? '' : `, at ${surface.part}`}`,
    ];
  if (old.triangles - unplaced[0] > 0) return ['it has no surface any more'];
  if (now.triangles - unplaced[1] > 0) return ['it has a surface now'];
  if (!isAll) return [];
  if (points) return [`the same ${plural(points.new, 'point')}`];
  return [isClip ? 'the same poses' : 'nothing is drawn of either'];
}

function describePlacement(
  { scale, offsetMetres, isTurned, mirrored }: NonNullable<ModelDetail['placed']>,
  lengths: LengthUnit,
): string {
  const parts: string[] = [];
  if (Math.abs(scale - 1) > 0.002) parts.push(`${timesText(scale)} as large`);
  if (mirrored) parts.push(isTurned ? 'mirrored' : `mirrored along ${mirrored}`);
  if (isTurned) parts.push('turned by quarters');
  const far = Math.hypot(...offsetMetres);
  // Mirrored or turned about its own middle, it is not where it was; how far says nothing.
  if (parts.length === 0 || (far > 0.001 && !isTurned && !mirrored))
    parts.push(`moved by ${lengthText(far, lengths)}`);
  return `the same shape, ${parts.join(' and ')}`;
}

/** Where a model as a whole stands elsewhere, its nodes do so too. */
function describeNodes(
  { added, gone, reparented, moved, renamed }: NodeChanges,
  noun: string,
  isPlaced: boolean,
  lengths: LengthUnit,
): string[] {
  const said = [...describeList(added, noun, 'new'), ...describeList(gone, noun, 'gone')];
  const [other] = renamed;
  if (other)
    said.push(
      renamed.length === 1
        ? `${noun} ${named(other.from)} renamed to ${named(other.to)}`
        : `${renamed.length} ${noun}s renamed`,
    );
  const [first] = reparented;
  if (first)
    said.push(
      reparented.length === 1
        ? `${noun} ${first.bone} hangs on ${first.to || 'nothing'} instead of ${first.from || 'nothing'}`
        : `${reparented.length} ${noun}s hang on others`,
    );
  const [far] = moved;
  if (far && !isPlaced)
    said.push(
      `${plural(moved.length, noun)} moved, ${far.bone} ${describeMove(far.metres, far.degrees, lengths)}`,
    );
  return said;
}

/** Names where they are few, else how many. */
export function describeList(names: readonly string[], noun: string, what: string): string[] {
  if (names.length === 0) return [];
  return [
    names.length <= 2
      ? `${noun}${names.length === 1 ? '' : 's'} ${names.map((name) => (name === unnamedPart ? 'without a name' : named(name))).join(' and ')} ${what}`
      : `${names.length} ${noun}s ${what}`,
  ];
}

function describeRenamed(pairs: readonly string[][]): string[] {
  const [[old, now] = []] = pairs;
  if (pairs.length === 0) return [];
  return [
    pairs.length === 1
      ? `part ${named(old ?? '')} renamed to ${named(now ?? '')}`
      : `${pairs.length} parts renamed`,
  ];
}

function describeClip(clip: ClipDetail, lengths: LengthUnit): string[] {
  const { name, status, oldSeconds, newSeconds } = clip;
  if (status === 'same') return [];
  const [before, after] = name.split(' → ');
  if (status === 'changed' && after !== undefined) {
    const pose = describePose({ ...clip, name: after }, lengths);
    return [[`clip ${named(before ?? '')} renamed to ${named(after)}`, pose].filter(Boolean).join(', ')];
  }
  if (status !== 'changed') return [`${clipName(name)} ${status === 'added' ? 'new' : 'gone'}`];
  const length =
    Math.abs((oldSeconds ?? 0) - (newSeconds ?? 0)) > 1e-3
      ? `${clipName(name)} ${secondsText(oldSeconds ?? 0)} → ${secondsText(newSeconds ?? 0)}`
      : '';
  const pose = describePose(clip, lengths);
  return [
    [length, pose === '' ? '' : `${length === '' ? `${clipName(name)}: ` : ''}${pose}`]
      .filter(Boolean)
      .join(', '),
  ];
}

/** What has no name is counted: “clip 1”. */
function clipName(name: string): string {
  return /^clip \d+$/.test(name) ? name : `clip ${named(name)}`;
}
