import { momentText } from '../../ui/dates.ts';
import { useTitlesQuery } from '../builds/api.ts';
import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Title } from '../../../contract/builds.ts';
import { followerRequestSchema, type Follower } from '../../../contract/ways-in.ts';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { WorkPage } from '../../ui/work-page.tsx';
import {
  useAddFollowerMutation,
  useChangeFollowerMutation,
  useFollowersQuery,
  useLookNowMutation,
  useRemoveFollowerMutation,
} from './api.ts';
import { UploadPanel } from './upload-panel.tsx';

/** Where builds come from by themselves, and what is sent from this computer. */
export function WaysInView(): ReactNode {
  const { data: titles = [] } = useTitlesQuery();
  const { data, error, refetch } = useFollowersQuery(undefined, { pollingInterval: 3000 });
  return (
    <WorkPage title="Sources">
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1fr) 400px' },
          gap: 4,
          maxWidth: 1200,
          mt: 1,
        }}
      >
        <Box>
          <Typography variant="h2" gutterBottom>
            What is followed
          </Typography>
          {error && <Failure text={failureText(error)} onRetry={() => void refetch()} />}
          {!data && !error && <Loading what="what is followed" />}
          {data?.length === 0 && (
            <Typography color="text.secondary">
              Nothing yet. A depot that is followed brings its new builds in without a person.
            </Typography>
          )}
          {data?.map((follower) => (
            <FollowerCard key={follower.id} follower={follower} />
          ))}
          <AddFollower titles={titles} />
        </Box>
        <Box sx={{ borderLeft: 1, borderColor: 'divider', pl: 3 }}>
          <UploadPanel />
          <Typography variant="h2" sx={{ mt: 3 }} gutterBottom>
            From the server’s own disk
          </Typography>
          <Typography>
            <Link to="/new">Bring in a folder or an archive</Link>
          </Typography>
        </Box>
      </Box>
    </WorkPage>
  );
}

const paces = [
  [15, 'every 15 seconds'],
  [60, 'every minute'],
  [300, 'every 5 minutes'],
  [3600, 'every hour'],
  [86_400, 'once a day'],
] as const;

function FollowerCard({ follower }: { follower: Follower }): ReactNode {
  const [change] = useChangeFollowerMutation();
  const [remove] = useRemoveFollowerMutation();
  const [lookNow, { data: job }] = useLookNowMutation();
  const { id, kind, paused, failed, outcome, lookedAt, nextAt, intervalSeconds } = follower;
  const isListed = paces.some(([seconds]) => seconds === intervalSeconds);
  return (
    <Box
      component="article"
      aria-label={`${kind} at ${follower.url}`}
      sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 2, mb: 1.5 }}
    >
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline' }}>
        <Typography sx={{ flex: 1, fontWeight: 700 }}>{`${follower.title}, ${follower.channel}`}</Typography>
        <Typography color="text.secondary">{paused ? `${kind}, paused` : kind}</Typography>
      </Box>
      <Typography className="path" sx={{ overflowWrap: 'anywhere' }}>
        {follower.url}
      </Typography>
      {follower.keyPostUrl !== '' && (
        <Typography
          variant="body2"
          color="text.secondary"
          className="path"
        >{`keys from ${follower.keyPostUrl}`}</Typography>
      )}
      <Typography
        role={failed ? 'alert' : undefined}
        color={failed ? 'primary' : undefined}
        sx={{ mt: 0.5, overflowWrap: 'anywhere' }}
      >
        {outcome ?? 'It has not been looked at yet.'}
      </Typography>
      <Typography variant="body2" color="text.secondary">
        {[
          lookedAt === null ? '' : `looked at ${momentText(lookedAt)}`,
          paused ? '' : `next look ${momentText(nextAt)}`,
        ]
          .filter(Boolean)
          .join('; ')}
      </Typography>
      <Box sx={{ display: 'flex', gap: 1, mt: 1, alignItems: 'center' }}>
        <Button variant="outlined" onClick={() => void lookNow(id)}>
          Look now
        </Button>
        <Button variant="outlined" onClick={() => void change({ id, paused: !paused })}>
          {paused ? 'Follow again' : 'Pause'}
        </Button>
        <TextField
          select
          size="small"
          variant="standard"
          value={intervalSeconds}
          slotProps={{ htmlInput: { 'aria-label': 'How often' } }}
          onChange={({ target }) => void change({ id, intervalSeconds: Number(target.value) })}
        >
          {!isListed && <MenuItem value={intervalSeconds}>{`every ${intervalSeconds} seconds`}</MenuItem>}
          {paces.map(([seconds, words]) => (
            <MenuItem key={seconds} value={seconds}>
              {words}
            </MenuItem>
          ))}
        </TextField>
        <Box sx={{ flex: 1 }} />
        <Button onClick={() => void remove(id)}>Forget it</Button>
      </Box>
      {job && (
        <Typography role="status" variant="body2">
          It is being looked at. <Link to="/work">See the job</Link>
        </Typography>
      )}
    </Box>
  );
}

function AddFollower({ titles }: { titles: readonly Title[] }): ReactNode {
  const [add, { error, isLoading }] = useAddFollowerMutation();
  const [problems, setProblems] = useState<Record<string, string>>({});
  const submit = (event: FormEvent<HTMLFormElement>): void => {
    event.preventDefault();
    const form = event.currentTarget;
    const parsed = followerRequestSchema.safeParse(Object.fromEntries(new FormData(form)));
    if (!parsed.success) {
      setProblems(
        Object.fromEntries(parsed.error.issues.map(({ path, message }) => [path.join('.'), message])),
      );
      return;
    }
    setProblems({});
    void add(parsed.data)
      .unwrap()
      .then(() => form.reset())
      .catch(() => undefined);
  };
  const field = (name: string) => ({
    name,
    error: name in problems,
    helperText: problems[name] ?? ' ',
    fullWidth: true,
  });
  return (
    <Box component="details" sx={{ mt: 2 }}>
      <summary>Follow another one</summary>
      <Box component="form" onSubmit={submit} noValidate sx={{ mt: 1.5 }}>
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr 140px', columnGap: 2 }}>
          <TextField {...field('title')} label="Title" defaultValue={titles[0]?.name ?? ''} />
          <TextField {...field('channel')} label="Channel" defaultValue="main" />
          <TextField {...field('kind')} label="Kind" select defaultValue="depot">
            <MenuItem value="depot">Depot</MenuItem>
            <MenuItem value="device">Device</MenuItem>
          </TextField>
        </Box>
        <TextField {...field('url')} label="Address" placeholder="http://" />
        <TextField {...field('keyPostUrl')} label="Address of its key post" placeholder="none" />
        {error && (
          <Typography role="alert" color="primary" sx={{ mb: 1 }}>
            {failureText(error)}
          </Typography>
        )}
        <Button type="submit" variant="contained" disabled={isLoading}>
          Follow it
        </Button>
      </Box>
    </Box>
  );
}
