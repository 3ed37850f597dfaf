import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { usePlace } from '../../ui/use-span.ts';
import { useReadNameQuery } from './api.ts';

/** A name, part by part, with what each means. */
export function NamePanel({ build, path }: { build: string; path: string }): ReactNode {
  const { channel } = usePlace();
  const { data } = useReadNameQuery({ channel: channel.id, build, path });
  if (!data || data.every(({ role }) => role === null)) return null;
  return (
    <Box>
      <Typography variant="h2">Name</Typography>
      <Box
        component="dl"
        sx={{ display: 'grid', gridTemplateColumns: '92px 1fr', gap: '2px 12px', m: 0, fontSize: '0.9rem' }}
      >
        {data.map(({ part, role, meaning, saidBy }, at) => (
          <Box key={at} sx={{ display: 'contents' }}>
            <Box component="dt" className="path" sx={{ overflowWrap: 'anywhere' }}>
              {part}
            </Box>
            <Box
              component="dd"
              sx={{ m: 0, color: role === null ? 'text.secondary' : undefined }}
              title={saidBy === '' ? undefined : `said by ${saidBy}`}
            >
              {role === null
                ? 'not known'
                : meaning === ''
                  ? role
                  : `${meaning}${meaning.includes(role) ? '' : ` (${role})`}`}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
