import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  LinearProgress,
  TextField,
  Typography,
} from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import { intakeRequestSchema, type Title } from '../../contract/builds.ts';
import { failureText } from '../shell/api.ts';
import { formText } from '../shell/form-text.ts';
import { useAppSelector } from '../shell/store.ts';
import { JobCard } from '../work/job-card.tsx';
import { useBringInMutation } from './api.ts';

/** The form that brings a build in, and its progress once it runs. */
export function NewBuild({
  title,
  channel,
}: {
  title?: Title | undefined;
  channel?: string | undefined;
}): ReactNode {
  const [bringIn, { data: job, error, isLoading, reset }] = useBringInMutation();
  const told = useAppSelector(({ work }) => work.jobs.find(({ id }) => id === job?.id)) ?? job;
  const [problems, setProblems] = useState<Record<string, string>>({});
  const navigate = useNavigate();

  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const released = formText(form, 'released');
    const parsed = intakeRequestSchema.safeParse({
      ...Object.fromEntries(form),
      replace: form.get('replace') === 'on',
      releasedAt: released === '' ? undefined : `${released}T00:00:00Z`,
    });
    if (!parsed.success) {
      setProblems(
        Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('.'), message])),
      );
      return;
    }
    setProblems({});
    void bringIn(parsed.data);
  };
  const field = (name: string) => ({
    name,
    error: name in problems,
    helperText: problems[name] ?? ' ',
    fullWidth: true,
  });

  if (told) {
    return (
      <Box sx={{ p: 3, maxWidth: 820, overflow: 'auto' }}>
        <Typography variant="h1" gutterBottom>
          {told.state === 'done' ? `Build ${told.build} is in` : `Bringing in ${told.build}`}
        </Typography>
        <JobCard job={told} />
        <Box sx={{ mt: 2, display: 'flex', gap: 1 }}>
          {told.state === 'done' && (
            <Button
              variant="contained"
              onClick={() =>
                void navigate(
                  `/${encodeURIComponent(told.title)}/${encodeURIComponent(told.channel)}/findings`,
                )
              }
            >
              See what changed
            </Button>
          )}
          <Button onClick={reset}>Bring in another</Button>
          <Button component={Link} to="/work">
            All work
          </Button>
        </Box>
      </Box>
    );
  }
  return (
    <Box sx={{ p: 3, maxWidth: 720, overflow: 'auto' }}>
      <Typography variant="h1">Bring in a build</Typography>
      <Typography color="text.secondary" sx={{ mb: 2 }}>
        The source is only read. It is walked, archives and all; what is new is kept, and what could not be
        read is listed.
      </Typography>
      <form onSubmit={submit} noValidate>
        <TextField
          {...field('source')}
          label="Folder or archive on this machine"
          placeholder="/games/ferry, or as it was pasted"
          slotProps={{ htmlInput: { className: 'path', spellCheck: false } }}
          autoFocus
        />
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 2 }}>
          <TextField {...field('title')} label="Title" defaultValue={title?.name ?? ''} />
          <TextField {...field('channel')} label="Channel" defaultValue={channel ?? 'main'} />
          <TextField {...field('build')} label="Label of the build" placeholder="0.3" />
          <TextField
            {...field('released')}
            label="Came out on"
            type="date"
            slotProps={{ inputLabel: { shrink: true } }}
          />
        </Box>
        <FormControlLabel
          control={<Checkbox name="replace" size="small" />}
          label="Index again where this label is there already"
        />
        {error && (
          <Typography role="alert" color="primary" sx={{ my: 1, overflowWrap: 'anywhere' }}>
            {failureText(error)}
          </Typography>
        )}
        {isLoading && <LinearProgress aria-label="Sending" />}
        <Box sx={{ mt: 1 }}>
          <Button type="submit" variant="contained" disabled={isLoading}>
            Bring it in
          </Button>
        </Box>
      </form>
    </Box>
  );
}
