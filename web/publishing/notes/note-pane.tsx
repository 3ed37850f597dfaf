import { Box, Button, Typography } from '@mui/material';
import { useEffect, useRef, type ReactNode } from 'react';
import { Link, useLocation } from 'react-router';
import { stepText } from '../../../core/notes/step-text.ts';
import { failureText } from '../../ui/api.ts';
import { spanQuery, usePlace, useSpan, viewPath } from '../../ui/use-span.ts';
import { useNoteQuery } from './api.ts';
import { NoteText } from './note-text.tsx';

/** The note on how an asset was taken out, at a glance; it is written on a page of its own. */
export function NotePane({ channelId, path }: { channelId: number; path: string }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { hash } = useLocation();
  const { data: note, error } = useNoteQuery({ channel: channelId, path });
  const holder = useRef<HTMLDivElement>(null);
  const isThere = note !== undefined;
  useEffect(() => {
    if (hash === '#note' && isThere) holder.current?.scrollIntoView();
  }, [hash, isThere]);
  const isEmpty = note?.body === '' && note.steps.length === 0;
  return (
    <Box id="note" ref={holder}>
      <Typography variant="h2">Note</Typography>
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      {isEmpty && (
        <Typography color="text.secondary">
          How was it taken out? Build, archive, settings, what to mind.
        </Typography>
      )}
      {note && note.body !== '' && <NoteText body={note.body} />}
      {note && note.steps.length > 0 && (
        <Box component="ol" sx={{ pl: 2.5, my: 0.5, overflowWrap: 'anywhere' }}>
          {note.steps.map((step, at) => (
            <li key={at}>{stepText(step).what}</li>
          ))}
        </Box>
      )}
      <Button
        component={Link}
        variant="outlined"
        sx={{ mt: 1 }}
        to={`${viewPath(place, 'note')}?${spanQuery(span)}&path=${encodeURIComponent(path)}`}
      >
        {isEmpty ? 'Write a note' : 'Edit or run the note'}
      </Button>
    </Box>
  );
}
