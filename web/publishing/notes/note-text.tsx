import { Box } from '@mui/material';
import { lazy, Suspense, type ReactNode } from 'react';

// What reads Markdown is large, and most assets have no note.
const FormattedNote = lazy(() => import('./formatted-note.tsx'));

/** A note to be read; as it was written until what formats it is there. */
export function NoteText({ body }: { body: string }): ReactNode {
  return (
    <Suspense fallback={<Box sx={{ whiteSpace: 'pre-wrap', overflowWrap: 'anywhere' }}>{body}</Box>}>
      <FormattedNote body={body} />
    </Suspense>
  );
}
