import type { AnimationClip, Object3D } from 'three';
import type { Move } from '../../../core/kinds/model/pose/lay-over.ts';
import { foreignTracks, give, layTrack, ownTracks, valuesOf, type MovingTrack } from './moving-tracks.ts';

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

/** A clip that is laid over those below it. */
export interface PlayedLayer {
  /** Place in the list. */
  clip: number;
  weight: number;
  moves: ReadonlySet<Move>;
  /** What it may move; null for all. */
  mask: ReadonlySet<Object3D> | null;
}

interface PlayedClip {
  entry: ClipEntry;
  tracks: readonly MovingTrack[];
  /** The same without what moves its root about. */
  inPlace: readonly MovingTrack[];
}

/** Plays clips of a model, one on top of the other, and stops them at any moment. */
export class ClipPlayer {
  private readonly clips: PlayedClip[];
  private readonly model: Object3D;
  /** How all that clips have moved so far is at rest. */
  private readonly rest = new Map<Object3D, Map<Move | null, number[]>>();
  /** Whether anything stands otherwise than at rest. */
  private isPosed = false;
  private playing: Playing = atRest;
  private layers: readonly PlayedLayer[] = [];
  private seconds = 0;

  constructor(model: Object3D, clips: readonly AnimationClip[]) {
    this.model = model;
    this.clips = clips.map((clip) => played(clip, ownTracks(clip, model), model));
  }

  get entries(): readonly ClipEntry[] {
    return this.clips.map(({ entry }) => entry);
  }

  get isRunning(): boolean {
    return this.playing.isRunning && (this.base !== undefined || this.layers.length > 0);
  }

  /** The moment that is shown. */
  get time(): number {
    return this.seconds;
  }

  /** Puts a clip of another file to the list. @returns its place, and bones that it moves and the model lacks */
  add(clip: AnimationClip, scene: Object3D): { place: number; entry: ClipEntry; lacking: string[] } {
    const { tracks, lacking } = foreignTracks(clip, scene, this.model);
    const made = played(clip, tracks, this.model);
    this.clips.push(made);
    return { place: this.clips.length - 1, entry: made.entry, lacking };
  }

  /** Begins another clip, or goes on with the same one otherwise. @returns whether the model may stand otherwise than before */
  play(playing: Playing): boolean {
    const isSame = playing.clip === this.playing.clip && playing.hasRootMotion === this.playing.hasRootMotion;
    this.playing = playing;
    if (!isSame) this.seconds = 0;
    // Whoever plays a clip that has come to its end wants it from its beginning.
    if (playing.isRunning && !playing.isLoop && this.seconds >= this.duration) this.seconds = 0;
    return this.show();
  }

  /** Lays clips over the one that is played, the first one lowest. @returns whether the model may stand otherwise than before */
  setLayers(layers: readonly PlayedLayer[]): boolean {
    this.layers = layers;
    return this.show();
  }

  /** @returns whether there is more to come */
  advance(seconds: number): boolean {
    if (!this.isRunning) return false;
    const { duration } = this;
    const next = this.seconds + seconds * this.playing.speed;
    const isOver = next > duration && !this.playing.isLoop;
    if (isOver) this.playing = { ...this.playing, isRunning: false };
    this.seconds = isOver || duration === 0 ? duration : next % duration;
    this.show();
    return !isOver;
  }

  seek(seconds: number): void {
    this.seconds = Math.max(0, Math.min(seconds, this.duration));
    this.show();
  }

  /** Puts all back as it is at rest. */
  stop(): void {
    for (const [target, moved] of this.rest)
      for (const [move, values] of moved) give({ target, move }, values);
  }

  private get base(): PlayedClip | undefined {
    return this.clips[this.playing.clip];
  }

  /** How long it is until it begins again: as the clip below all others, or the longest of them where there is none. */
  private get duration(): number {
    if (this.base) return this.base.entry.seconds;
    return Math.max(0, ...this.layers.map(({ clip }) => this.clips[clip]?.entry.seconds ?? 0));
  }

  private show(): boolean {
    const { base, layers, isPosed } = this;
    this.isPosed = base !== undefined || layers.length > 0;
    if (!isPosed && !this.isPosed) return false;
    this.stop();
    if (base) this.lay(this.playing.hasRootMotion ? base.tracks : base.inPlace, this.seconds, 1);
    for (const { clip, weight, moves, mask } of layers) {
      const over = this.clips[clip];
      if (!over) continue;
      const { seconds: length } = over.entry;
      // Each goes round by itself: none of them stands still while others move.
      const moment =
        this.playing.isLoop && length > 0 && this.seconds > length ? this.seconds % length : this.seconds;
      const tracks = this.playing.hasRootMotion ? over.tracks : over.inPlace;
      this.lay(
        tracks.filter(
          ({ target, move }) => (!mask || mask.has(target)) && (move === null || moves.has(move)),
        ),
        Math.min(moment, length),
        weight,
      );
    }
    return true;
  }

  private lay(tracks: readonly MovingTrack[], seconds: number, weight: number): void {
    for (const track of tracks) {
      let moved = this.rest.get(track.target);
      if (!moved) this.rest.set(track.target, (moved = new Map<Move | null, number[]>()));
      if (!moved.has(track.move)) moved.set(track.move, valuesOf(track));
      layTrack(track, seconds, weight);
    }
  }
}

function played(clip: AnimationClip, tracks: readonly MovingTrack[], model: Object3D): PlayedClip {
  return {
    entry: { name: clip.name, seconds: clip.duration, rate: rateOf(clip) },
    tracks,
    inPlace: withoutRootMotion(tracks, model),
  };
}

function withoutRootMotion(tracks: readonly MovingTrack[], model: Object3D): MovingTrack[] {
  const moved = new Set(tracks.filter(({ move }) => move === 'position').map(({ target }) => target));
  const isRoot = (target: Object3D): boolean => {
    for (let above = target.parent; above && above !== model.parent; above = above.parent)
      if (moved.has(above)) return false;
    return true;
  };
  return tracks.filter(({ target, move }) => move !== 'position' || !isRoot(target));
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
