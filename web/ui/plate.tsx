import { Box } from '@mui/material';
import type { ReactNode } from 'react';

/** The ground that a specimen stands on, in the middle. */
export function Plate({
  height,
  width = '100%',
  children,
}: {
  height: number;
  width?: number | string;
  children: ReactNode;
}): ReactNode {
  return (
    <Box
      sx={{
        bgcolor: 'plate',
        height,
        width,
        flexShrink: 0,
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
        position: 'relative',
      }}
    >
      {children}
    </Box>
  );
}
