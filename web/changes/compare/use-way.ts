import { useEffect } from 'react';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { useAddress } from '../../ui/use-address.ts';

/** Which of several ways of looking is chosen: it stands in the address, and keys from 1 on choose. */
export function useWay<Way extends string>(
  name: string,
  ways: readonly [Way, ...Way[]],
): [Way, (way: Way) => void] {
  const [parameters, set] = useAddress();
  const named = parameters.get(name);
  const way = ways.find((candidate) => candidate === named) ?? ways[0];
  const choose = (next: Way): void => set({ [name]: next === ways[0] ? '' : next });
  useEffect(() => {
    if (name !== 'way') return;
    const onKey = (event: globalThis.KeyboardEvent): void => {
      if (!isForShortcut(event)) return;
      const next = ways[Number(event.key) - 1];
      if (next !== undefined && event.key !== '0') set({ way: next === ways[0] ? '' : next });
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  });
  return [way, choose];
}
