import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { failureText } from '../../ui/api.ts';
import { momentText } from '../../ui/dates.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { useNoteRevisionsQuery, type AtNote } from './api.ts';

/** Who wrote what of the note, the newest first. */
export function RevisionsPane({ at }: { at: AtNote }): ReactNode {
  const { data: revisions, error, refetch } = useNoteRevisionsQuery(at);
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!revisions) return <Loading what="the revisions" />;
  if (revisions.length === 0) return <Typography>Nobody wrote it yet.</Typography>;
  return (
    <Box component="ol" aria-label="Revisions" sx={{ listStyle: 'none', p: 0, m: 0 }}>
      {revisions.map(({ change, by, at: time, what }) => (
        <Box component="li" key={change} sx={{ borderTop: 1, borderColor: 'divider', py: 0.75 }}>
          <Typography variant="body2" color="text.secondary">
            {`${by || 'Somebody'}, ${momentText(time)}`}
          </Typography>
          {what.map((line, index) => (
            <Typography key={index} sx={{ overflowWrap: 'anywhere' }}>
              {line}
            </Typography>
          ))}
        </Box>
      ))}
    </Box>
  );
}
