import { Box } from '@mui/material';
import type { ReactNode } from 'react';
import type { Entry } from '../../contract/catalogue.ts';
import { Preview } from '../assets/preview.tsx';

/** The entry's first asset on its plate. */
export function EntryPlate({ entry }: { entry: Entry }): ReactNode {
  const [first] = entry.assets;
  return (
    <Box
      sx={{
        bgcolor: 'plate',
        height: 140,
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
      }}
    >
      {first && (
        <Preview
          hash={first.hash}
          format={first.format}
          facts={first.facts}
          hasPreview={first.hasPreview}
          kind={first.kind}
        />
      )}
    </Box>
  );
}
