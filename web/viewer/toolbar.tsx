import { Box } from '@mui/material';
import type { ReactNode } from 'react';

/** What can be done with the thing that a viewer shows, above it. */
export function Toolbar({ label, children }: { label: string; children: ReactNode }): ReactNode {
  return (
    <Box
      role="toolbar"
      aria-label={label}
      sx={{
        display: 'flex',
        alignItems: 'center',
        flexWrap: 'wrap',
        gap: 0.5,
        p: 0.5,
        bgcolor: 'background.paper',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      {children}
    </Box>
  );
}
