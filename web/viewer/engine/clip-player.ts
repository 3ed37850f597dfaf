import {
  AnimationClip,
  AnimationMixer,
  LoopOnce,
  LoopRepeat,
  type AnimationAction,
  type KeyframeTrack,
  type Object3D,
} from 'three';

export interface ClipEntry {
  name: string;
  /** To its last key: a clip ends there (common practice, no published source). */
  seconds: number;
  /** Keys a second; 30 where they are not evenly spread. */
  rate: number;
}

/** How a clip is played. */
export interface Playing {
  /** Place in the list; -1 for the pose at rest. */
  clip: number;
  isRunning: boolean;
  isLoop: boolean;
  /** Times as fast as it was made. */
  speed: number;
  /** Whether the root goes where the clip takes it, or stays where it is. */
  hasRootMotion: boolean;
}

export const atRest: Playing = { clip: -1, isRunning: false, isLoop: true, speed: 1, hasRootMotion: true };

/** Plays one clip of a model, and stops it at any moment. */
export class ClipPlayer {
  readonly entries: readonly ClipEntry[];
  private readonly mixer: AnimationMixer;
  private readonly clips: readonly AnimationClip[];
  private readonly model: Object3D;
  private playing: Playing = atRest;
  private action: AnimationAction | null = null;
  private seconds = 0;

  constructor(model: Object3D, clips: readonly AnimationClip[]) {
    this.model = model;
    this.clips = clips;
    this.mixer = new AnimationMixer(model);
    this.entries = clips.map((clip) => ({ name: clip.name, seconds: clip.duration, rate: rateOf(clip) }));
  }

  get isRunning(): boolean {
    return this.playing.isRunning && this.action !== null;
  }

  /** The moment that is shown. */
  get time(): number {
    return this.seconds;
  }

  /** Begins another clip, or goes on with the same one otherwise. */
  play(playing: Playing): void {
    const isSame =
      playing.clip === this.playing.clip &&
      playing.hasRootMotion === this.playing.hasRootMotion &&
      this.action;
    this.playing = playing;
    if (!isSame) {
      this.mixer.stopAllAction();
      const clip = this.clips[playing.clip];
      const shown = clip && (playing.hasRootMotion ? clip : inPlace(clip, this.model));
      this.action = shown ? this.mixer.clipAction(shown).play() : null;
      this.seconds = 0;
    }
    // Whoever plays a clip that has come to its end wants it from its beginning.
    const length = this.action?.getClip().duration ?? 0;
    if (playing.isRunning && !playing.isLoop && this.seconds >= length) this.seconds = 0;
    this.show();
  }

  /** @returns whether there is more to come */
  advance(seconds: number): boolean {
    if (!this.action || !this.playing.isRunning) return false;
    const { duration } = this.action.getClip();
    const next = this.seconds + seconds * this.playing.speed;
    const isOver = next > duration && !this.playing.isLoop;
    if (isOver) this.playing = { ...this.playing, isRunning: false };
    this.seconds = isOver || duration === 0 ? duration : next % duration;
    this.show();
    return !isOver;
  }

  seek(seconds: number): void {
    if (!this.action) return;
    this.seconds = Math.max(0, Math.min(seconds, this.action.getClip().duration));
    this.show();
  }

  stop(): void {
    this.mixer.stopAllAction();
    this.mixer.uncacheRoot(this.model);
  }

  private show(): void {
    if (!this.action) return;
    // At its very end a looping action would be at its beginning again.
    this.action.setLoop(this.playing.isLoop ? LoopRepeat : LoopOnce, this.playing.isLoop ? Infinity : 1);
    this.action.clampWhenFinished = true;
    this.action.enabled = true;
    this.action.paused = false;
    this.action.time = 0;
    const { duration } = this.action.getClip();
    const moment = this.playing.isLoop ? Math.min(this.seconds, duration * (1 - 1e-7)) : this.seconds;
    this.mixer.setTime(moment);
  }
}

/** The same clip without what moves its root about. */
function inPlace(clip: AnimationClip, model: Object3D): AnimationClip {
  const moved = new Set(
    clip.tracks.filter((track) => track.name.endsWith('.position')).map((track) => nodeOf(track)),
  );
  const isRoot = (name: string): boolean => {
    const node = model.getObjectByProperty('uuid', name) ?? model.getObjectByName(name);
    for (let above = node?.parent; above; above = above.parent)
      if (moved.has(above.name) || moved.has(above.uuid)) return false;
    return true;
  };
  const roots = new Set([...moved].filter(isRoot));
  return new AnimationClip(
    clip.name,
    clip.duration,
    clip.tracks.filter((track) => !track.name.endsWith('.position') || !roots.has(nodeOf(track))),
  );
}

function nodeOf({ name }: KeyframeTrack): string {
  return name.slice(0, name.lastIndexOf('.'));
}

/** Keys a second, where all tracks have one distance between their keys. */
function rateOf({ tracks }: AnimationClip): number {
  let shortest = Infinity;
  for (const { times } of tracks)
    for (let at = 1; at < times.length; at++) {
      const step = (times[at] ?? 0) - (times[at - 1] ?? 0);
      if (step > 1e-4) shortest = Math.min(shortest, step);
    }
  const rate = 1 / shortest;
  return Number.isFinite(rate) && rate >= 1 && rate <= 240 ? Math.round(rate * 100) / 100 : 30;
}
