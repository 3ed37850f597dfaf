import { dayText } from '../../ui/dates.ts';
import { useTitlesQuery } from '../builds/api.ts';
import { Box, Button, Checkbox, FormControlLabel, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Title } from '../../../contract/builds.ts';
import { keyRequestSchema, type KeptKey, type Keyring } from '../../../contract/keyring.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { formText } from '../../ui/form-text.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { WorkPage } from '../../ui/work-page.tsx';
import { useAddKeyMutation, useKeyringQuery, useRemoveKeyMutation, useUnlockMutation } from './api.ts';

/** Keys of the titles' locked archives: what they are for, and never what they are. */
export function KeyringView(): ReactNode {
  const { data: titles = [] } = useTitlesQuery();
  const { data, error, refetch } = useKeyringQuery();
  return (
    <WorkPage
      title="Keyring"
      lead="Keys open locked archives. They lie encrypted, and are not shown again once they are saved. A new key is tried on what is locked; what it opens is read, and nothing else."
    >
      {error && <Failure text={failureText(error)} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the keyring" />}
      {data && (
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 400px' },
            gap: 4,
            maxWidth: 1160,
          }}
        >
          <Box>
            <LockedBuilds locked={data.locked} />
            <Typography variant="h2" sx={{ mt: 2 }} gutterBottom>
              Keys
            </Typography>
            {data.keys.length === 0 && (
              <Empty title="No key yet">
                Most archives are open. Those that are not are listed as locked.
              </Empty>
            )}
            {data.keys.map((key) => (
              <KeyRow key={key.id} kept={key} />
            ))}
          </Box>
          <AddKey titles={titles} lockedTitle={data.locked[0]?.title} />
        </Box>
      )}
    </WorkPage>
  );
}

function LockedBuilds({ locked }: { locked: Keyring['locked'] }): ReactNode {
  const [unlock, { data: job }] = useUnlockMutation();
  return (
    <>
      <Typography variant="h2" gutterBottom>
        What is locked
      </Typography>
      {locked.length === 0 && <Typography color="text.secondary">Nothing is locked in any build.</Typography>}
      {locked.map(({ buildId, title, channel, build, count }) => (
        <Box
          key={buildId}
          sx={{
            display: 'flex',
            gap: 2,
            alignItems: 'center',
            borderBottom: 1,
            borderColor: 'divider',
            py: 0.5,
          }}
        >
          <Typography sx={{ flex: 1 }}>{`${title}, ${channel}, build ${build}`}</Typography>
          <Typography color="text.secondary">{`${count.toLocaleString('en')} locked`}</Typography>
          <Button onClick={() => void unlock(buildId)}>Try all keys</Button>
        </Box>
      ))}
      {job && (
        <Typography role="status" sx={{ mt: 0.5 }}>
          The keys are being tried. <Link to="/work">See the job</Link>
        </Typography>
      )}
    </>
  );
}

function KeyRow({ kept }: { kept: KeptKey }): ReactNode {
  const [remove] = useRemoveKeyMutation();
  const [isSure, setSure] = useState(false);
  const forms: Record<KeptKey['form'], string> = {
    passphrase: 'passphrase',
    hex: 'raw key, in hex',
    base64: 'raw key, in Base64',
  };
  const scope =
    kept.builds.length === 0
      ? 'for all builds'
      : `for ${kept.builds.length === 1 ? 'build' : 'builds'} ${kept.builds.join(', ')}`;
  return (
    <Box
      sx={{
        display: 'flex',
        gap: 2,
        alignItems: 'center',
        borderBottom: 1,
        borderColor: 'divider',
        py: 0.75,
      }}
    >
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography>{kept.remark === '' ? `Key ${kept.id}` : kept.remark}</Typography>
        <Typography variant="body2" color="text.secondary">
          {`${kept.title}, ${scope}; ${forms[kept.form]}, saved ${dayText(kept.createdAt)}`}
        </Typography>
      </Box>
      {isSure ? (
        <>
          <Button color="primary" onClick={() => void remove(kept.id)}>
            Remove it
          </Button>
          <Button onClick={() => setSure(false)}>Cancel</Button>
        </>
      ) : (
        <Button onClick={() => setSure(true)} aria-label={`Remove key ${kept.id}`}>
          Remove
        </Button>
      )}
    </Box>
  );
}

function AddKey({
  titles,
  lockedTitle,
}: {
  titles: readonly Title[];
  lockedTitle: string | undefined;
}): ReactNode {
  const [add, { data: added, error, isLoading }] = useAddKeyMutation();
  const [problem, setProblem] = useState('');
  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = event.currentTarget;
    const fields = new FormData(form);
    const parsed = keyRequestSchema.safeParse({
      ...Object.fromEntries(fields),
      builds: formText(fields, 'builds')
        .split(',')
        .map((label) => label.trim())
        .filter(Boolean),
      keep: fields.get('keep') === 'on',
    });
    if (!parsed.success) {
      const [issue] = parsed.error.issues;
      setProblem(`${issue?.path.join('.') ?? ''} ${issue?.message ?? ''}`);
      return;
    }
    setProblem('');
    void add(parsed.data)
      .unwrap()
      .then(() => form.reset())
      .catch(() => undefined);
  };
  const names = titles.map(({ name }) => name);
  return (
    <Box component="form" onSubmit={submit} noValidate sx={{ borderLeft: 1, borderColor: 'divider', pl: 3 }}>
      <Typography variant="h2" gutterBottom>
        Add a key
      </Typography>
      <TextField
        select
        name="title"
        label="Title"
        defaultValue={lockedTitle ?? names[0] ?? ''}
        fullWidth
        margin="dense"
      >
        {names.map((name) => (
          <MenuItem key={name} value={name}>
            {name}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        name="key"
        label="Key"
        type="password"
        autoComplete="off"
        fullWidth
        margin="dense"
        slotProps={{ htmlInput: { spellCheck: false } }}
      />
      <TextField select name="form" label="Written as" defaultValue="passphrase" fullWidth margin="dense">
        <MenuItem value="passphrase">Passphrase</MenuItem>
        <MenuItem value="hex">Raw key in hex</MenuItem>
        <MenuItem value="base64">Raw key in Base64</MenuItem>
      </TextField>
      <TextField
        name="builds"
        label="For builds"
        placeholder="0.3, 0.4; empty for all"
        fullWidth
        margin="dense"
      />
      <TextField name="remark" label="Remark" placeholder="Where it was found" fullWidth margin="dense" />
      <FormControlLabel
        control={<Checkbox name="keep" size="small" />}
        label="Keep it even if it opens nothing yet"
      />
      {(problem !== '' || error) && (
        <Typography role="alert" color="primary" sx={{ my: 1 }}>
          {problem === '' ? failureText(error) : problem}
        </Typography>
      )}
      {added && !error && (
        <Typography role="status" sx={{ my: 1 }}>
          {added.jobs.length > 0
            ? `The key is kept. It opens ${plural(added.opens.length, 'archive')}: they are being read. `
            : 'The key is kept. Nothing that is locked opens with it yet.'}
          {added.jobs.length > 0 && <Link to="/work">See the job</Link>}
        </Typography>
      )}
      <Button type="submit" variant="contained" disabled={isLoading}>
        {isLoading ? 'Trying it' : 'Try and keep'}
      </Button>
    </Box>
  );
}
