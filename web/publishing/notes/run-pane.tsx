import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import type { Note, NoteRun, StepVerdict } from '../../../contract/notes.ts';
import { stepText } from '../../../core/notes/step-text.ts';
import { stepsToKeep } from '../../../core/notes/steps-to-keep.ts';
import { failureText } from '../../ui/api.ts';
import { momentText } from '../../ui/dates.ts';
import { usePlace } from '../../ui/use-span.ts';
import { useLastNoteRunQuery, useRunNoteMutation, useSaveNoteMutation, type AtNote } from './api.ts';

const asWritten = ' ';
/** While something is taken out, it is asked for so often. */
const workMs = 1500;

const signs: Record<StepVerdict, { sign: string; colour: string }> = {
  running: { sign: '…', colour: 'text.secondary' },
  fits: { sign: '=', colour: 'statuses.added' },
  differs: { sign: '≠', colour: 'statuses.changed' },
  'does not fit': { sign: '✕', colour: 'error.main' },
  'by hand': { sign: '·', colour: 'text.secondary' },
};

/** Runs the note again, on its own build or on another one, and tells which step no longer fits, and why. */
export function RunPane({ at, note }: { at: AtNote; note: Note }): ReactNode {
  const { builds } = usePlace();
  const [build, setBuild] = useState('');
  const [run, { error, isLoading }] = useRunNoteMutation();
  const { data: last, refetch } = useLastNoteRunQuery(at);
  const isAtWork = (last?.jobs.length ?? 0) > 0;
  useEffect(() => {
    if (!isAtWork) return;
    const timer = setInterval(() => void refetch(), workMs);
    return () => clearInterval(timer);
  }, [isAtWork, refetch]);
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <TextField
        select
        size="small"
        label="On build"
        value={build === '' ? asWritten : build}
        onChange={({ target }) => setBuild(target.value === asWritten ? '' : target.value)}
      >
        <MenuItem value={asWritten}>the one that the note names</MenuItem>
        {[...builds].reverse().map(({ label }) => (
          <MenuItem key={label} value={label}>
            {label}
          </MenuItem>
        ))}
      </TextField>
      <Button
        variant="contained"
        disabled={isLoading || isAtWork || note.steps.length === 0}
        onClick={() => void run({ ...at, build })}
      >
        Run it again
      </Button>
      {note.steps.length === 0 && (
        <Typography color="text.secondary">A note with steps can be run again.</Typography>
      )}
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      {last && <Outcomes run={last} at={at} note={note} isAtWork={isAtWork} />}
    </Box>
  );
}

function Outcomes({
  run,
  at,
  note,
  isAtWork,
}: {
  run: NoteRun;
  at: AtNote;
  note: Note;
  isAtWork: boolean;
}): ReactNode {
  const [save, { error, isLoading }] = useSaveNoteMutation();
  const proposed = stepsToKeep(run.steps, run.outcomes);
  const isOther = JSON.stringify(proposed) !== JSON.stringify(run.steps);
  const isPresent = run.revision === note.revision;
  return (
    <Box>
      <Typography variant="body2" color="text.secondary" role="status">
        {`${isAtWork ? 'Running' : 'Run'} ${run.build === '' ? 'as it is written' : `on build ${run.build}`}, ${momentText(run.startedAt)}${run.by ? `, by ${run.by}` : ''}`}
      </Typography>
      <Box component="ol" aria-label="What came of each step" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {run.steps.map((step, index) => {
          const outcome = run.outcomes[index];
          if (!outcome) return null;
          const { sign, colour } = signs[outcome.verdict];
          return (
            <Box component="li" key={index} sx={{ borderTop: 1, borderColor: 'divider', py: 0.75 }}>
              <Typography sx={{ overflowWrap: 'anywhere' }}>
                {`${index + 1}. ${stepText(step).what}`}
              </Typography>
              <Typography sx={{ overflowWrap: 'anywhere', color: colour }}>
                {`${sign} ${outcome.verdict}: `}
                <Box component="span" sx={{ color: 'text.primary' }}>
                  {outcome.sentence}
                </Box>
              </Typography>
              {outcome.proposed && stepText(outcome.proposed).what !== stepText(step).what && (
                <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
                  {`Proposed: ${stepText(outcome.proposed).what}`}
                </Typography>
              )}
            </Box>
          );
        })}
      </Box>
      {isOther && !isAtWork && (
        <Button
          variant="outlined"
          disabled={isLoading || !isPresent}
          onClick={() => void save({ ...at, body: note.body, steps: proposed, revision: note.revision })}
        >
          Take over what is proposed
        </Button>
      )}
      {isOther && !isPresent && (
        <Typography variant="body2" color="text.secondary">
          The note was changed since: run it again first.
        </Typography>
      )}
      {error && <Typography role="alert">{failureText(error)}</Typography>}
    </Box>
  );
}
