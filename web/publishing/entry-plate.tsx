import type { ReactNode } from 'react';
import type { Entry } from '../../contract/catalogue.ts';
import { Preview } from '../library/assets/preview.tsx';
import { Plate } from '../ui/plate.tsx';

/** The entry's first asset on its plate. */
export function EntryPlate({ entry }: { entry: Entry }): ReactNode {
  const [first] = entry.assets;
  return (
    <Plate height={140}>
      {first && (
        <Preview
          hash={first.hash}
          format={first.format}
          facts={first.facts}
          hasPreview={first.hasPreview}
          kind={first.kind}
        />
      )}
    </Plate>
  );
}
