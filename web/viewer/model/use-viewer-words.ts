import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useAddress } from '../../ui/use-address.ts';
import type { Changes, Said } from './look-address.ts';

/** A word that was said, and that the address does not say yet. */
interface Ahead {
  value: string | null;
  /** What the address may say meanwhile: what it said before, and what was said on the way. */
  before: ReadonlySet<string | null>;
}

/**
 * What a viewer says of itself: in the address, so that a link shows the same thing; or kept by itself, where a page shows a
 * viewer among other things. Keys and sliders come faster than addresses change: what was said last counts at once.
 */
export function useViewerWords(isInAddress: boolean): [Said, (changes: Changes) => void] {
  const [parameters, set] = useAddress();
  const [own, setOwn] = useState<ReadonlyMap<string, string>>(new Map());
  const [ahead, setAhead] = useState<ReadonlyMap<string, Ahead>>(new Map());
  const kept = useMemo((): Said => ({ get: (name) => own.get(name) ?? null }), [own]);
  const keep = useCallback((changes: Changes): void => {
    setOwn((before) => {
      const next = new Map(before);
      for (const [name, value] of Object.entries(changes))
        if (value) next.set(name, value);
        else next.delete(name);
      return next;
    });
  }, []);
  const said = useMemo(
    (): Said => ({
      get: (name) => {
        const word = ahead.get(name);
        return word ? word.value : parameters.get(name);
      },
    }),
    [parameters, ahead],
  );
  useEffect(() => {
    // The address has come so far, or says something else that somebody else said.
    setAhead((before) => {
      const left = [...before].filter(([name, { value, before: known }]) => {
        const now = parameters.get(name);
        return now !== value && known.has(now);
      });
      return left.length === before.size ? before : new Map(left);
    });
  }, [parameters]);
  // The same function for as long as the viewer lives, whatever the address is by then.
  const latest = useRef({ set, parameters });
  useEffect(() => {
    latest.current = { set, parameters };
  });
  const say = useCallback((changes: Changes): void => {
    const { set: put, parameters: now } = latest.current;
    setAhead((before) => {
      const next = new Map(before);
      for (const [name, value] of Object.entries(changes)) {
        const last = before.get(name);
        const known = last ? [...last.before, last.value] : [now.get(name)];
        next.set(name, { value: value ? value : null, before: new Set(known) });
      }
      return next;
    });
    put(changes);
  }, []);
  return isInAddress ? [said, say] : [kept, keep];
}
