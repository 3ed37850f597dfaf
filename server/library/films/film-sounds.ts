import { LRUCache } from 'lru-cache';
import { EventEmitter, once } from 'node:events';
import pLimit from 'p-limit';
import { filmSound } from '../../decode/films/decode-film.ts';
import { PlainError } from '../../platform/plain-error.ts';
import type { LocalContent } from '../../store/local-content.ts';

const mebibyte = 1024 ** 2;
/** More than an hour at the rate that is written. */
const mostBytes = 64 * mebibyte;
const mostKeptBytes = 128 * mebibyte;

/** A sound while it is made, and all that listen to it. */
class Growing {
  readonly pieces: Buffer[] = [];
  bytes = 0;
  outcome: 'whole' | Error | null = null;
  listeners = 0;
  readonly stop = new AbortController();
  readonly changed = new EventEmitter().setMaxListeners(0);
}

export interface FilmSoundsOptions {
  /** How many are made at the same time: more wait. */
  atOnce?: number;
  /** Takes the sound out of a film. */
  soundOf?: typeof filmSound;
}

/**
 * Sounds of films, made a few at a time, as fast as they can be, however slowly somebody listens. What many listen to is made
 * once, what nobody listens to any more is given up, and what was made is kept for a while, within bounds.
 */
export class FilmSounds {
  private readonly inTurn: ReturnType<typeof pLimit>;
  private readonly soundOf: typeof filmSound;
  private readonly growing = new Map<string, Growing>();
  private readonly made = new LRUCache<string, Growing>({
    maxSize: mostKeptBytes,
    sizeCalculation: ({ bytes }) => Math.max(1, bytes),
  });

  constructor({ atOnce = 2, soundOf = filmSound }: FilmSoundsOptions = {}) {
    this.inTurn = pLimit(atOnce);
    this.soundOf = soundOf;
  }

  /**
   * The pieces of a sound, from its beginning.
   * @param signal aborted when nobody listens any more
   * @throws what says why there is none, or no more
   */
  async *listen(content: LocalContent, format: string, signal?: AbortSignal): AsyncGenerator<Buffer> {
    const name = `${content.hash} ${format}`;
    const sound = this.made.get(name) ?? this.growing.get(name) ?? this.begin(name, content, format);
    sound.listeners++;
    try {
      for (let at = 0; ;) {
        const piece = sound.pieces[at];
        if (piece) {
          at++;
          yield piece;
        } else if (sound.outcome === 'whole') return;
        else if (sound.outcome) throw sound.outcome;
        else await once(sound.changed, 'change', signal ? { signal } : {});
      }
    } finally {
      sound.listeners--;
      if (sound.listeners === 0 && sound.outcome === null) this.giveUp(name, sound);
    }
  }

  private begin(name: string, content: LocalContent, format: string): Growing {
    const sound = new Growing();
    this.growing.set(name, sound);
    void this.inTurn(() => this.make(sound, content, format)).then(() => {
      if (this.growing.get(name) === sound) this.growing.delete(name);
      if (sound.outcome === 'whole') this.made.set(name, sound);
      sound.changed.emit('change');
    });
    return sound;
  }

  private async make(sound: Growing, content: LocalContent, format: string): Promise<void> {
    try {
      for await (const piece of this.soundOf(content, format, sound.stop.signal)) {
        sound.bytes += piece.length;
        if (sound.bytes > mostBytes)
          throw new PlainError(`its sound is longer than what is made here: ${mostBytes / mebibyte} MiB`);
        sound.pieces.push(piece);
        sound.changed.emit('change');
      }
      sound.outcome = 'whole';
    } catch (error) {
      sound.outcome = error instanceof Error ? error : new Error(String(error));
    }
  }

  /** Whoever asks next has it made anew. */
  private giveUp(name: string, sound: Growing): void {
    if (this.growing.get(name) === sound) this.growing.delete(name);
    sound.stop.abort();
  }
}
