import { useEffect, useState } from 'react';
import { fontCharactersSchema, type FontCharacters } from '../../../contract/fonts.ts';
import { failureOf } from '../receive.ts';

/** A font as the browser writes with it, and which characters it has; each may be missing, with a reason. */
export interface ShownFont {
  /** Name by which the page knows it; null where the browser does not take it. */
  family: string | null;
  characters: FontCharacters | null;
  failure: string;
}

let loaded = 0;

/**
 * Loads a font for as long as it is looked at.
 * @param source its bytes
 * @param charactersAt from where its characters are told
 */
export function useFont(source: string, charactersAt: string): ShownFont | null {
  const [shown, setShown] = useState<ShownFont | null>(null);
  useEffect(() => {
    const family = `shown-font-${++loaded}`;
    const face = new FontFace(family, `url("${source}")`);
    const controller = new AbortController();
    let isCurrent = true;
    const characters = fetch(charactersAt, { signal: controller.signal }).then(async (response) => {
      if (!response.ok) throw new Error(await failureOf(response));
      return fontCharactersSchema.parse(await response.json());
    });
    void Promise.allSettled([face.load(), characters]).then(([written, told]) => {
      if (!isCurrent) return;
      if (written.status === 'fulfilled') document.fonts.add(face);
      const reasons = [
        written.status === 'rejected' ? 'this browser does not write with it' : '',
        told.status === 'rejected' ? String((told.reason as Error).message) : '',
      ];
      setShown({
        family: written.status === 'fulfilled' ? family : null,
        characters: told.status === 'fulfilled' ? told.value : null,
        failure: reasons.filter(Boolean).join('; '),
      });
    });
    return () => {
      isCurrent = false;
      controller.abort();
      document.fonts.delete(face);
    };
  }, [source, charactersAt]);
  return shown;
}
