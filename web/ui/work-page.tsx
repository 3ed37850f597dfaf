import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';

/** A page about the house as a whole: its heading, and what it is for. */
export function WorkPage({
  title,
  lead,
  children,
}: {
  title: string;
  lead?: string;
  children: ReactNode;
}): ReactNode {
  return (
    <Box sx={{ p: { xs: 1.5, md: 3 }, pt: 2, overflow: 'auto', flex: 1 }}>
      <Typography variant="h1" sx={{ mb: lead ? 0 : 1.5 }}>
        {title}
      </Typography>
      {lead && (
        <Typography color="text.secondary" sx={{ mb: 2, maxWidth: 760 }}>
          {lead}
        </Typography>
      )}
      {children}
    </Box>
  );
}
