import { useCallback, useState } from 'react';
import { mostSelected } from '../../contract/findings.ts';

export interface Selection {
  paths: ReadonlySet<string>;
  /** Place of the item that keys work on. */
  active: number;
  moveTo: (index: number) => void;
  toggle: (index: number, path: string) => void;
  /** Takes in all from where the selection was begun up to an item. */
  extendTo: (index: number) => Promise<void>;
  /** Nothing is chosen; keys stay where they are. */
  clear: () => void;
  /** Nothing is chosen, and keys work on the first item. */
  reset: () => void;
}

interface Chosen {
  paths: ReadonlySet<string>;
  /** Counts up whenever all is let go of: what is still on its way then comes too late. */
  era: number;
}

const nothing: ReadonlySet<string> = new Set();

/**
 * Items that somebody chose, by path: they stay chosen while others are scrolled to.
 * @param pathsBetween paths of the items from one place to another, both included
 */
export function useSelection(
  pathsBetween: (first: number, last: number) => Promise<readonly string[]>,
): Selection {
  const [{ paths, era }, setChosen] = useState<Chosen>({ paths: nothing, era: 0 });
  const [active, setActive] = useState(0);
  const [anchor, setAnchor] = useState(0);
  const moveTo = useCallback((index: number): void => {
    setActive(index);
    setAnchor(index);
  }, []);
  const toggle = useCallback(
    (index: number, path: string): void => {
      moveTo(index);
      setChosen((before) => {
        const next = new Set(before.paths);
        if (!next.delete(path)) next.add(path);
        return { ...before, paths: next };
      });
    },
    [moveTo],
  );
  const extendTo = useCallback(
    async (index: number): Promise<void> => {
      setActive(index);
      const [first, last] = [Math.min(anchor, index), Math.max(anchor, index)];
      const between = await pathsBetween(first, Math.min(last, first + mostSelected - 1));
      setChosen((before) =>
        before.era === era ? { ...before, paths: new Set([...before.paths, ...between]) } : before,
      );
    },
    [anchor, era, pathsBetween],
  );
  const clear = useCallback((): void => setChosen((before) => ({ paths: nothing, era: before.era + 1 })), []);
  const reset = useCallback((): void => {
    clear();
    moveTo(0);
  }, [clear, moveTo]);
  return { paths, active, moveTo, toggle, extendTo, clear, reset };
}
