import { PlaceContext } from '../../ui/use-span.ts';
import {
  Box,
  Button,
  Checkbox,
  FormControlLabel,
  LinearProgress,
  TextField,
  Typography,
} from '@mui/material';
import { useContext, useState, type FormEvent, type ReactNode } from 'react';
import { Link, useNavigate, useSearchParams } from 'react-router';
import { intakeRequestSchema, type Channel, type Title } from '../../../contract/builds.ts';
import type { Proposal } from '../../../contract/reading.ts';
import { wholeChoice, type ChoiceGlobs } from '../../../core/containers/choice.ts';
import { failureText } from '../../ui/api.ts';
import { formText } from '../../ui/form-text.ts';
import { useAppSelector } from '../../ui/store.ts';
import { JobCard } from '../../jobs/job-card.tsx';
import { Loading } from '../../ui/states.tsx';
import { useBringInMutation, useLookMutation, useProposalQuery } from './api.ts';
import { ChoiceEditor } from './choice-editor.tsx';
import { KeysChoice } from './keys-choice.tsx';
import { nextLabel } from './next-label.ts';

/** The form that brings a build in, with what the build before was read by, and its progress once it runs. */
export function NewBuild(): ReactNode {
  const { title, channel } = useContext(PlaceContext) ?? {};
  const { data: proposal, isLoading } = useProposalQuery(channel?.id ?? 0, { skip: !channel });
  if (channel && isLoading) return <Loading what="what the build before was read by" />;
  return <NewBuildForm title={title} channel={channel} proposal={proposal ?? null} />;
}

function NewBuildForm({
  title,
  channel,
  proposal,
}: {
  title: Title | undefined;
  channel: Channel | undefined;
  proposal: Proposal | null;
}): ReactNode {
  const [bringIn, { data: job, error, isLoading, reset }] = useBringInMutation();
  const [look, { data: looked, error: lookError, isLoading: isLooking }] = useLookMutation();
  const told = useAppSelector(({ work }) => work.jobs.find(({ id }) => id === job?.id)) ?? job;
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [globs, setGlobs] = useState<ChoiceGlobs>(proposal?.settings.choice ?? wholeChoice);
  const [keys, setKeys] = useState(proposal?.settings.keys ?? null);
  const [titleName, setTitleName] = useState(title?.name ?? '');
  const [parameters] = useSearchParams();
  const [source, setSource] = useState(parameters.get('source') ?? proposal?.source ?? '');
  const navigate = useNavigate();
  const newest = channel?.builds.filter(({ sequence }) => sequence !== null).at(-1);
  const seen = looked ?? null;

  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = new FormData(event.currentTarget);
    const released = formText(form, 'released');
    const root = formText(form, 'root');
    const parsed = intakeRequestSchema.safeParse({
      ...Object.fromEntries(form),
      source,
      replace: form.get('replace') === 'on',
      releasedAt: released === '' ? undefined : `${released}T00:00:00Z`,
      settings: {
        platform: formText(form, 'platform'),
        // What nobody touched stays as it is; nothing in the field means that it is found.
        contentRoot: root === (proposal?.settings.contentRoot ?? '') ? undefined : root === '' ? null : root,
        choice: globs,
        keys,
      },
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
    <Box sx={{ p: 3, pt: 2, overflow: 'auto' }}>
      <Box component="form" onSubmit={submit} noValidate sx={{ maxWidth: 980 }}>
        <Typography variant="h1">Bring in a build</Typography>
        <Typography color="text.secondary" sx={{ mb: 2 }}>
          {proposal && newest
            ? `As build ${newest.label} was: give it its label, or change what differs. The source is only read.`
            : 'The source is only read. It is walked, archives and all; what is new is kept, and what could not be read is listed.'}
        </Typography>
        <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'flex-start' }}>
          <TextField
            {...field('source')}
            label="Folder or archive on this machine"
            placeholder="/games/ferry, or as it was pasted"
            value={source}
            onChange={({ target }) => setSource(target.value)}
            slotProps={{ htmlInput: { className: 'path', spellCheck: false } }}
            autoFocus={source === ''}
          />
          <Button
            variant="outlined"
            sx={{ mt: 1, flexShrink: 0 }}
            disabled={isLooking || source === ''}
            onClick={() => void look(source)}
          >
            {isLooking ? 'Looking' : 'Look into it'}
          </Button>
        </Box>
        <Box sx={{ display: 'grid', gridTemplateColumns: 'repeat(3, 1fr)', columnGap: 2 }}>
          <TextField
            {...field('build')}
            label="Label of the build"
            defaultValue={newest ? nextLabel(newest.label) : ''}
            placeholder="0.3"
            autoFocus={source !== ''}
          />
          <TextField
            {...field('title')}
            label="Title"
            value={titleName}
            onChange={({ target }) => setTitleName(target.value)}
          />
          <TextField {...field('channel')} label="Channel" defaultValue={channel?.name ?? 'main'} />
          <TextField
            {...field('released')}
            label="Came out on"
            type="date"
            slotProps={{ inputLabel: { shrink: true } }}
          />
          <TextField
            {...field('platform')}
            label="Platform"
            defaultValue={proposal?.settings.platform ?? ''}
            placeholder="none"
          />
          <TextField
            {...field('root')}
            label="Content root"
            defaultValue={proposal?.settings.contentRoot ?? ''}
            placeholder={seen?.contentRoot ?? 'found by itself'}
            slotProps={{ htmlInput: { className: 'path', spellCheck: false }, inputLabel: { shrink: true } }}
          />
          <KeysChoice title={titleName} keys={keys} onChange={setKeys} />
        </Box>
        {lookError && (
          <Typography role="alert" color="primary" sx={{ overflowWrap: 'anywhere' }}>
            {failureText(lookError)}
          </Typography>
        )}
        {isLooking && <LinearProgress aria-label="Looking into the source" />}
        {(seen || globs.only.length + globs.without.length > 0) && (
          <ChoiceEditor seen={seen} globs={globs} onChange={setGlobs} />
        )}
        {seen?.containers.some(({ lock }) => lock !== 'open') && (
          <Typography sx={{ mt: 1 }}>
            Some of it is locked. <Link to="/work/keyring">Keys</Link> are tried while it is read; one that
            comes later opens it then.
          </Typography>
        )}
        {error && (
          <Typography role="alert" color="primary" sx={{ my: 1, overflowWrap: 'anywhere' }}>
            {failureText(error)}
          </Typography>
        )}
        {isLoading && <LinearProgress aria-label="Sending" />}
        <Box
          sx={{
            display: 'flex',
            gap: 2,
            alignItems: 'center',
            position: 'sticky',
            bottom: -24,
            // Labels of fields lie above what follows them.
            zIndex: 2,
            py: 1,
            mt: 1,
            bgcolor: 'background.default',
            borderTop: 1,
            borderColor: 'divider',
          }}
        >
          <Button type="submit" variant="contained" disabled={isLoading}>
            Bring it in
          </Button>
          <FormControlLabel
            control={<Checkbox name="replace" size="small" />}
            label="Index again where this label is there already"
          />
        </Box>
      </Box>
    </Box>
  );
}
