import type { FilmSource } from '../../../core/kinds/reading.ts';
import type { LocalContent } from '../../store/local-content.ts';
import { filmFrame, filmTracks } from './decode-film.ts';
import { probeFilm } from './probe-film.ts';

/** A film as programs of this machine take it apart. */
export function filmSource(content: LocalContent, format: string): FilmSource {
  return {
    facts: () => probeFilm(content, format),
    tracks: () => filmTracks(content, format),
    picture: (seconds, width) => filmFrame(content, format, { seconds, width, isTypical: true }),
  };
}
