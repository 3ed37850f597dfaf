import type { ReactNode } from 'react';
import { Toggle } from '../../ui/toggle.tsx';

/** The ways of looking, to be chosen from. */
export function Ways<Way extends string>({
  ways,
  chosen,
  onChoose,
}: {
  ways: readonly (readonly [Way, string])[];
  chosen: Way;
  onChoose: (way: Way) => void;
}): ReactNode {
  return ways.map(([way, name]) => (
    <Toggle key={way} isOn={way === chosen} onClick={() => onChoose(way)}>
      {name}
    </Toggle>
  ));
}
