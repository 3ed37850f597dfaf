import { Box, Button, TextField, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { useLocation } from 'react-router';
import type { Note } from '../../contract/catalogue.ts';
import { failureText } from '../ui/api.ts';
import { Toggle } from '../ui/toggle.tsx';
import { useNoteQuery, useSaveNoteMutation } from './api.ts';
import { NoteText } from './note-text.tsx';

/** The note on how an asset was taken out, in Markdown, beside what it will look like. */
export function NoteEditor({ channelId, path }: { channelId: number; path: string }): ReactNode {
  const { data: note, error } = useNoteQuery({ channel: channelId, path });
  return (
    <Box id="note">
      <Typography variant="h2">Note</Typography>
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      {note && <Editor key={note.revision} note={note} channelId={channelId} path={path} />}
    </Box>
  );
}

function Editor({ note, channelId, path }: { note: Note; channelId: number; path: string }): ReactNode {
  const { hash } = useLocation();
  const [isEditing, setEditing] = useState(hash === '#note' && note.revision === 0);
  const [isPreview, setPreview] = useState(false);
  const [body, setBody] = useState(note.body);
  const [save, { error, isLoading }] = useSaveNoteMutation();
  const holder = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (hash === '#note') holder.current?.scrollIntoView();
  }, [hash]);
  const isChanged = body !== note.body;
  useEffect(() => {
    if (!isChanged) return;
    const keep = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', keep);
    return () => window.removeEventListener('beforeunload', keep);
  }, [isChanged]);

  if (!isEditing) {
    return (
      <Box ref={holder}>
        {note.body === '' ? (
          <Typography color="text.secondary">
            How was it taken out? Build, archive, settings, what to mind.
          </Typography>
        ) : (
          <NoteText body={note.body} />
        )}
        <Button variant="outlined" sx={{ mt: 1 }} onClick={() => setEditing(true)}>
          {note.body === '' ? 'Write a note' : 'Edit the note'}
        </Button>
      </Box>
    );
  }
  return (
    <Box ref={holder}>
      <Box role="group" aria-label="Note view" sx={{ display: 'flex', gap: 0.5, mb: 0.5 }}>
        <Toggle isOn={!isPreview} onClick={() => setPreview(false)}>
          Write
        </Toggle>
        <Toggle isOn={isPreview} onClick={() => setPreview(true)}>
          Preview
        </Toggle>
      </Box>
      {isPreview ? (
        <Box sx={{ border: 1, borderColor: 'divider', p: 1, minHeight: 120 }}>
          <NoteText body={body} />
        </Box>
      ) : (
        <TextField
          multiline
          fullWidth
          minRows={6}
          maxRows={16}
          autoFocus
          value={body}
          onChange={({ target }) => setBody(target.value)}
          placeholder={'1. Open `data/models.zip` of build …'}
          slotProps={{ htmlInput: { 'aria-label': 'Note in Markdown', className: 'path' } }}
        />
      )}
      {error && (
        <Typography role="alert" color="primary">
          {failureText(error)}
        </Typography>
      )}
      <Box sx={{ display: 'flex', gap: 1, mt: 1 }}>
        <Button
          variant="contained"
          disabled={isLoading || !isChanged}
          onClick={() => void save({ channel: channelId, path, body, revision: note.revision })}
        >
          Save the note
        </Button>
        <Button
          onClick={() => {
            setBody(note.body);
            setEditing(false);
          }}
        >
          Cancel
        </Button>
      </Box>
    </Box>
  );
}
