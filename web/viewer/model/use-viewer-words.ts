import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useAddress } from '../../ui/use-address.ts';
import type { Changes, Said } from './look-address.ts';

/**
 * What a viewer says of itself: in the address, so that a link shows the same thing; or kept by itself, where a page shows a
 * viewer among other things.
 */
export function useViewerWords(isInAddress: boolean): [Said, (changes: Changes) => void] {
  const [parameters, set] = useAddress();
  const [own, setOwn] = useState<ReadonlyMap<string, string>>(new Map());
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
  // The same function for as long as the viewer lives, whatever the address is by then.
  const latest = useRef(set);
  useEffect(() => {
    latest.current = set;
  });
  const say = useCallback((changes: Changes): void => latest.current(changes), []);
  return isInAddress ? [parameters, say] : [kept, keep];
}
