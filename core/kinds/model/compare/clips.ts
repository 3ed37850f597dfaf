import type { Animation, Document } from '@gltf-transform/core';
import type { ClipDetail } from '../../../../contract/comparisons.ts';
import { Pose } from './pose.ts';
import { degreesBetween, metresBetween, scaleBetween } from './skeleton.ts';

const framesPerSecond = 30;
const mostFrames = 600;
/** What is less is left by the packing of numbers: metres, degrees, shares. */
const leastMetres = 1e-4;
const least = { turned: 0.2, scaled: 0.002, morphed: 0.005 } as const;

/** Clips by name, each with the greatest difference of a pose: at which moment, at which bone. */
export function compareClips(
  old: Document,
  now: Document,
  oldNodeOf: (node: string) => string,
): ClipDetail[] {
  const before = byName(old);
  const after = byName(now);
  const result: ClipDetail[] = [];
  const one = (name: string, status: 'added' | 'gone', seconds: number): ClipDetail => ({
    name,
    status,
    oldSeconds: status === 'gone' ? seconds : null,
    newSeconds: status === 'added' ? seconds : null,
    greatestMetres: 0,
    bone: '',
    atSeconds: 0,
    others: [],
  });
  const renamed = renamedClips(old, now, before, after, oldNodeOf);
  const taken = new Set(renamed.values());
  for (const [name, animation] of after) {
    const pose = new Pose(now, animation);
    const then = before.get(renamed.get(name) ?? name);
    if (!then) {
      result.push(one(name, 'added', pose.seconds));
      continue;
    }
    const oldPose = new Pose(old, then);
    const { moved, others } = greatestDifferences(oldPose, pose, oldNodeOf);
    const isSame =
      moved.amount < leastMetres && others.length === 0 && Math.abs(oldPose.seconds - pose.seconds) < 1e-3;
    result.push({
      name: renamed.has(name) ? `${renamed.get(name) ?? ''} → ${name}` : name,
      status: isSame && !renamed.has(name) ? 'same' : 'changed',
      oldSeconds: oldPose.seconds,
      newSeconds: pose.seconds,
      greatestMetres: moved.amount,
      bone: moved.bone,
      atSeconds: moved.atSeconds,
      others,
    });
  }
  for (const [name, animation] of before)
    if (!after.has(name) && !taken.has(name))
      result.push(one(name, 'gone', new Pose(old, animation).seconds));
  return result;
}

/** Clips that came where one of the same poses went. @returns older names by newer ones */
function renamedClips(
  old: Document,
  now: Document,
  before: ReadonlyMap<string, Animation>,
  after: ReadonlyMap<string, Animation>,
  oldNodeOf: (node: string) => string,
): Map<string, string> {
  const renamed = new Map<string, string>();
  const gone = [...before].filter(([name]) => !after.has(name));
  if (gone.length === 0 || gone.length > 20) return renamed;
  const taken = new Set<string>();
  for (const [name, animation] of after) {
    if (before.has(name)) continue;
    const pose = new Pose(now, animation);
    const there = gone.find(([other, then]) => {
      const oldPose = new Pose(old, then);
      if (taken.has(other) || Math.abs(oldPose.seconds - pose.seconds) > 1e-3) return false;
      const { moved, others } = greatestDifferences(oldPose, pose, oldNodeOf);
      return moved.amount < leastMetres && others.length === 0;
    });
    if (!there) continue;
    taken.add(there[0]);
    renamed.set(name, there[0]);
  }
  return renamed;
}

/** One without a name, or with one that another has, goes by its place. */
function byName(document: Document): Map<string, Animation> {
  const clips = new Map<string, Animation>();
  document
    .getRoot()
    .listAnimations()
    .forEach((animation, at) => {
      const name = animation.getName() || `clip ${at + 1}`;
      clips.set(clips.has(name) ? `${name} ${at + 1}` : name, animation);
    });
  return clips;
}

interface Greatest {
  amount: number;
  bone: string;
  atSeconds: number;
}

/** At the same seconds from the first key, as long as both last. */
function greatestDifferences(
  old: Pose,
  now: Pose,
  oldNodeOf: (node: string) => string,
): { moved: Greatest; others: ClipDetail['others'] } {
  const length = Math.min(old.seconds, now.seconds);
  const frames = Math.min(mostFrames, Math.max(1, Math.ceil(length * framesPerSecond)));
  const none = (): Greatest => ({ amount: 0, bone: '', atSeconds: 0 });
  const greatest = { moved: none(), turned: none(), scaled: none(), morphed: none() };
  for (let frame = 0; frame <= frames; frame++) {
    const atSeconds = (frame / frames) * length;
    const note = (what: keyof typeof greatest, amount: number, bone: string): void => {
      if (amount > greatest[what].amount + 1e-9) greatest[what] = { amount, bone, atSeconds };
    };
    const before = old.matricesAt(atSeconds);
    for (const [bone, matrix] of now.matricesAt(atSeconds)) {
      const then = before.get(oldNodeOf(bone));
      if (!then) continue;
      note('moved', metresBetween(then, matrix), bone);
      note('turned', degreesBetween(then, matrix), bone);
      note('scaled', scaleBetween(then, matrix), bone);
    }
    const weights = old.weightsAt(atSeconds);
    for (const [node, shares] of now.weightsAt(atSeconds))
      shares.forEach((share, at) =>
        note('morphed', Math.abs(share - (weights.get(oldNodeOf(node))?.[at] ?? 0)), node),
      );
  }
  const others = (['turned', 'scaled', 'morphed'] as const).flatMap((what) =>
    greatest[what].amount >= least[what] ? [{ what, ...greatest[what] }] : [],
  );
  return { moved: greatest.moved, others };
}
