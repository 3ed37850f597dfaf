import type { ReactNode } from 'react';
import type { ListedAsset } from '../../contract/assets.ts';
import { Preview } from './assets/preview.tsx';

/** An asset's small picture on its plate, as lists show it. Sizes in pixels. */
export function PlatedPreview({
  of: { hash, format, hasPreview, kind },
  height,
  width,
}: {
  of: Pick<ListedAsset, 'hash' | 'format' | 'hasPreview' | 'kind'>;
  height: number;
  /** That of the place where it stands, where nothing is said. */
  width?: number;
}): ReactNode {
  return (
    <div className="plated" style={{ height, width }}>
      <Preview hash={hash} format={format} facts={null} hasPreview={hasPreview} kind={kind} isSmall />
    </div>
  );
}
