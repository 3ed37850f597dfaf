import { useCallback, useState } from 'react';

export interface Selection {
  paths: ReadonlySet<string>;
  /** Place of the row that keys work on. */
  active: number;
  moveTo: (index: number) => void;
  toggle: (index: number, path: string) => void;
  /** Takes in all from where the selection was begun up to a row. */
  extendTo: (index: number) => Promise<void>;
  clear: () => void;
}

/**
 * Rows that somebody chose, by path: they stay chosen while others are scrolled to.
 * @param pathsBetween paths of the rows from one place to another, both included
 */
export function useSelection(
  pathsBetween: (first: number, last: number) => Promise<readonly string[]>,
): Selection {
  const [paths, setPaths] = useState<ReadonlySet<string>>(new Set());
  const [active, setActive] = useState(0);
  const [anchor, setAnchor] = useState(0);
  const toggle = useCallback((index: number, path: string): void => {
    setActive(index);
    setAnchor(index);
    setPaths((before) => {
      const next = new Set(before);
      if (!next.delete(path)) next.add(path);
      return next;
    });
  }, []);
  const moveTo = useCallback((index: number): void => {
    setActive(index);
    setAnchor(index);
  }, []);
  const extendTo = useCallback(
    async (index: number): Promise<void> => {
      setActive(index);
      const between = await pathsBetween(Math.min(anchor, index), Math.max(anchor, index));
      setPaths((before) => new Set([...before, ...between]));
    },
    [anchor, pathsBetween],
  );
  const clear = useCallback((): void => setPaths(new Set()), []);
  return { paths, active, moveTo, toggle, extendTo, clear };
}
