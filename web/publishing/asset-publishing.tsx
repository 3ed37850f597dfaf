import type { ReactNode } from 'react';
import type { Asset } from '../../contract/assets.ts';
import { usePlace } from '../ui/use-span.ts';
import { EntryOfAsset } from './entry-of-asset.tsx';
import { NotePane } from './notes/note-pane.tsx';

/** The note on an asset, and its entries in the catalogue. */
export function AssetPublishing({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  return (
    <>
      <NotePane channelId={channel.id} path={asset.path} />
      <EntryOfAsset asset={asset} />
    </>
  );
}
