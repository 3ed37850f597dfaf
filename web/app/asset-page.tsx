import type { ReactNode } from 'react';
import { AssetView } from '../library/assets/asset-view.tsx';
import { AssetPublishing } from '../publishing/asset-publishing.tsx';

/** One asset, with its note and its entries in the catalogue. */
export function AssetPage(): ReactNode {
  return <AssetView Publishing={AssetPublishing} />;
}
