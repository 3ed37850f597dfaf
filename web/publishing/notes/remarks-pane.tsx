import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { useNoteRemarksQuery, type AtNote } from './api.ts';

/** What a reader would stumble over in the note as it was saved. */
export function RemarksPane({ at }: { at: AtNote }): ReactNode {
  const { data: remarks, error, refetch } = useNoteRemarksQuery(at);
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!remarks) return <Loading what="the check" />;
  if (remarks.length === 0)
    return <Typography>Nothing that a reader would stumble over was found.</Typography>;
  return (
    <Box component="ul" aria-label="What a reader would stumble over" sx={{ pl: 2.5, m: 0 }}>
      {remarks.map(({ step, text }, index) => (
        <Box component="li" key={index} sx={{ overflowWrap: 'anywhere', mb: 0.5 }}>
          {step === null ? text : `Step ${step + 1}: ${text}`}
        </Box>
      ))}
    </Box>
  );
}
