import { Box, Button, TextField, Typography } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import type { Note, NoteStep } from '../../../contract/notes.ts';
import { failureText } from '../../ui/api.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { useLazyProposedStepsQuery, useSaveNoteMutation, type AtNote } from './api.ts';
import { NoteText } from './note-text.tsx';
import { StepCard } from './step-card.tsx';

/** Words and steps of a note. What the product knows of the asset is offered as steps: nobody types a path twice. */
export function NoteEditor({ note, at, build }: { note: Note; at: AtNote; build: string }): ReactNode {
  const [body, setBody] = useState(note.body);
  const [steps, setSteps] = useState<readonly NoteStep[]>(note.steps);
  const [isPreview, setPreview] = useState(false);
  const [save, { error, isLoading }] = useSaveNoteMutation();
  const isChanged = body !== note.body || JSON.stringify(steps) !== JSON.stringify(note.steps);
  useEffect(() => {
    if (!isChanged) return;
    const keep = (event: BeforeUnloadEvent): void => event.preventDefault();
    window.addEventListener('beforeunload', keep);
    return () => window.removeEventListener('beforeunload', keep);
  }, [isChanged]);
  const put = (index: number, step: NoteStep): void => setSteps(steps.with(index, step));
  const move = (index: number, by: -1 | 1): void => {
    const step = steps[index];
    if (step) setSteps(steps.toSpliced(index, 1).toSpliced(index + by, 0, step));
  };
  return (
    <Box sx={{ mt: 1.5, maxWidth: 860 }}>
      <Box role="group" aria-label="Note" sx={{ display: 'flex', gap: 0.5, mb: 1 }}>
        <Toggle isOn={!isPreview} onClick={() => setPreview(false)}>
          Write
        </Toggle>
        <Toggle isOn={isPreview} onClick={() => setPreview(true)}>
          Preview
        </Toggle>
        <Box sx={{ flex: 1 }} />
        <Button
          variant="contained"
          disabled={isLoading || !isChanged}
          onClick={() => void save({ ...at, body, steps: [...steps], revision: note.revision })}
        >
          Save the note
        </Button>
        <Button
          disabled={!isChanged}
          onClick={() => {
            setBody(note.body);
            setSteps(note.steps);
          }}
        >
          Discard changes
        </Button>
      </Box>
      {error && (
        <Typography role="alert" color="primary">
          {failureText(error)}
        </Typography>
      )}
      {isPreview ? (
        <Box sx={{ border: 1, borderColor: 'divider', p: 1 }}>
          <NoteText body={body} />
        </Box>
      ) : (
        <TextField
          multiline
          fullWidth
          minRows={2}
          maxRows={16}
          value={body}
          onChange={({ target }) => setBody(target.value)}
          placeholder="What to mind, before the steps"
          slotProps={{ htmlInput: { 'aria-label': 'Note in Markdown', className: 'path' } }}
        />
      )}
      <Typography variant="h2" sx={{ mt: 2 }}>
        Steps
      </Typography>
      <Box component="ol" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {steps.map((step, index) => (
          <StepCard
            key={index}
            step={step}
            number={index + 1}
            isLast={index === steps.length - 1}
            isPreview={isPreview}
            onChange={(next) => put(index, next)}
            onMove={(by) => move(index, by)}
            onRemove={() => setSteps(steps.toSpliced(index, 1))}
          />
        ))}
      </Box>
      {steps.length === 0 && (
        <Typography color="text.secondary">
          None yet: they can be run again, on this build and on the next.
        </Typography>
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 1 }}>
        <KnownSteps at={at} build={build} steps={steps} onAdd={(more) => setSteps([...steps, ...more])} />
        <Button onClick={() => setSteps([...steps, { does: 'by hand', words: 'Do this:' }])}>
          Add a step by hand
        </Button>
      </Box>
    </Box>
  );
}

/** What is known of the asset and stands in no step yet. */
function KnownSteps({
  at,
  build,
  steps,
  onAdd,
}: {
  at: AtNote;
  build: string;
  steps: readonly NoteStep[];
  onAdd: (steps: NoteStep[]) => void;
}): ReactNode {
  const [ask, { error, isFetching, data }] = useLazyProposedStepsQuery();
  const plain = (step: NoteStep): string => JSON.stringify({ ...step, words: '' });
  const add = async (): Promise<void> => {
    const { data: proposed } = await ask({ ...at, build, query: '' });
    const there = new Set(steps.map(plain));
    onAdd((proposed ?? []).filter((step) => !there.has(plain(step))));
  };
  const isAll = data !== undefined && data.every((step) => steps.some((one) => plain(one) === plain(step)));
  return (
    <>
      <Button variant="outlined" disabled={isFetching || build === ''} onClick={() => void add()}>
        {`Add the steps that are known of build ${build}`}
      </Button>
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      {isAll && <Typography role="status">All that is known is here.</Typography>}
    </>
  );
}
