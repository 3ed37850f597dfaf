import type { Animation, Document } from '@gltf-transform/core';
import type { ClipDetail } from '../../../../contract/comparisons.ts';
import { Pose } from './pose.ts';

const framesPerSecond = 30;
const mostFrames = 600;

/** Clips by name, each with the greatest difference of a pose: at which moment, at which bone. */
export function compareClips(old: Document, now: Document): ClipDetail[] {
  const before = byName(old);
  const after = byName(now);
  const result: ClipDetail[] = [];
  const one = (name: string, status: 'added' | 'gone', seconds: number): ClipDetail => ({
    name, status, oldSeconds: status === 'gone' ? seconds : null, newSeconds: status === 'added' ? seconds : null, greatestMetres: 0, bone: '', atSeconds: 0,
  }); // prettier-ignore
  for (const [name, animation] of after) {
    const pose = new Pose(now, animation);
    const then = before.get(name);
    if (!then) {
      result.push(one(name, 'added', pose.seconds));
      continue;
    }
    const oldPose = new Pose(old, then);
    const { metres, bone, seconds } = greatestDifference(oldPose, pose);
    const isSame = metres < 1e-4 && Math.abs(oldPose.seconds - pose.seconds) < 1e-3;
    result.push({
      name, status: isSame ? 'same' : 'changed', oldSeconds: oldPose.seconds, newSeconds: pose.seconds,
      greatestMetres: metres, bone, atSeconds: seconds,
    }); // prettier-ignore
  }
  for (const [name, animation] of before)
    if (!after.has(name)) result.push(one(name, 'gone', new Pose(old, animation).seconds));
  return result;
}

function byName(document: Document): Map<string, Animation> {
  return new Map(
    document.getRoot().listAnimations().map((animation, at) => [animation.getName() || `clip ${at + 1}`, animation]),
  );
} // prettier-ignore

/** At the same seconds from the first key, as long as both last. */
function greatestDifference(old: Pose, now: Pose): { metres: number; bone: string; seconds: number } {
  const length = Math.min(old.seconds, now.seconds);
  const frames = Math.min(mostFrames, Math.max(1, Math.ceil(length * framesPerSecond)));
  const result = { metres: 0, bone: '', seconds: 0 };
  for (let frame = 0; frame <= frames; frame++) {
    const seconds = (frame / frames) * length;
    const before = old.placesAt(seconds);
    for (const [bone, place] of now.placesAt(seconds)) {
      const then = before.get(bone);
      if (!then) continue;
      const metres = Math.hypot(place[0] - then[0], place[1] - then[1], place[2] - then[2]);
      if (metres > result.metres + 1e-9) Object.assign(result, { metres, bone, seconds });
    }
  }
  return result;
}
