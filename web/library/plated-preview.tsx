import { Box } from '@mui/material';
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
    <Box
      sx={{
        height,
        width,
        flexShrink: 0,
        bgcolor: 'plate',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
      }}
    >
      <Preview hash={hash} format={format} facts={null} hasPreview={hasPreview} kind={kind} isSmall />
    </Box>
  );
}
