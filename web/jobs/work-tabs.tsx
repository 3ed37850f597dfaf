import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { NavLink } from 'react-router';

const pages = [
  ['/work', 'Jobs'],
  ['/work/ways-in', 'Ways in'],
  ['/work/keyring', 'Keyring'],
  ['/work/store', 'Store'],
] as const;

/** The pages about bringing builds in, below one heading. */
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
    <Box sx={{ p: 3, pt: 2, overflow: 'auto', flex: 1 }}>
      <Box component="nav" aria-label="Work" sx={{ display: 'flex', gap: 2.5, mb: 2 }}>
        {pages.map(([to, name]) => (
          <Box
            key={to}
            component={NavLink}
            to={to}
            end
            sx={{
              color: 'text.primary',
              textDecoration: 'none',
              borderBottom: 1,
              borderColor: 'divider',
              '&.active': { borderColor: 'primary.main', fontWeight: 700 },
              '&:hover': { color: 'primary.main' },
            }}
          >
            {name}
          </Box>
        ))}
      </Box>
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
