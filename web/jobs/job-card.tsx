import { momentText } from '../ui/dates.ts';
import { Box, Button, LinearProgress, MenuItem, Select, Typography } from '@mui/material';
import { Suspense, lazy, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Job, JobKind, Progress } from '../../contract/work.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { PathText } from '../ui/path-text.tsx';
import { useHaltMutation, usePriorityMutation, useResumeMutation } from './api.ts';

/** The chart's package is large, and most lists of jobs are looked at without it. */
const SpeedChart = lazy(() => import('./speed-chart.tsx'));

const stateWords: Record<Job['state'], string> = {
  waiting: 'Waiting for its turn',
  running: 'Running',
  paused: 'Paused; it goes on where it was',
  stopped: 'Stopped; it goes on where it was',
  done: 'Done',
  failed: 'Failed',
};
const kindWords: Record<JobKind, string> = {
  index: 'Indexing',
  unlock: 'Unlocking',
  remove: 'Removing',
  check: 'Checking',
  follow: 'Looking for what is new',
  recipes: 'Reading by recipes and sheets',
  read: 'Reading facts',
  evidence: 'Comparing',
  haul: 'Writing a haul',
  publish: 'Publishing an edition',
  backup: 'Backing up',
};
const priorityWords = new Map([
  [2, 'Goes first'],
  [1, 'Soon'],
  [0, 'In its turn'],
  [-1, 'When nothing else waits'],
]);

export function JobCard({ job }: { job: Job }): ReactNode {
  const { progress, result, report } = job;
  const subject = job.build === '' ? job.subject : `${job.title}, ${job.channel}, build ${job.build}`;
  return (
    <Box
      component="article"
      aria-label={`${kindWords[job.kind]}: ${subject}`}
      sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 2 }}
    >
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline' }}>
        <Typography variant="h2" sx={{ flex: 1, overflowWrap: 'anywhere' }}>
          {subject}
        </Typography>
        <Typography color={job.state === 'failed' ? 'primary' : 'text.secondary'}>
          {`${kindWords[job.kind]}: ${stateWords[job.state].toLowerCase()}${job.attempts > 1 ? `, attempt ${job.attempts}` : ''}`}
        </Typography>
      </Box>
      {job.source !== '' && (
        <Box sx={{ color: 'text.secondary' }}>
          <PathText path={job.source} />
        </Box>
      )}
      {job.state === 'running' && progress && <RunningProgress progress={progress} />}
      {job.error && (
        <Typography role="alert" sx={{ mt: 1, overflowWrap: 'anywhere' }}>
          {job.error}
        </Typography>
      )}
      {job.state === 'failed' && <WhatCanBeDone job={job} />}
      {result && (
        <Typography sx={{ mt: 1 }}>
          {`${plural(result.files, 'file')} in ${plural(result.containers, 'archive')}, ${bytesText(result.bytes)}; ${plural(result.newContents, 'new content')}, ${bytesText(result.newBytes)}; ${result.leftOutFiles > 0 ? `${result.leftOutFiles.toLocaleString('en')} left out; ` : ''}${result.locked} locked, ${result.unreadable} unreadable; ${result.seconds.toFixed(1)} s, ended ${momentText(job.finishedAt ?? '')}.`}
          {result.locked > 0 && (
            <>
              {' '}
              <Link to="/work/keyring">Add a key</Link>
            </>
          )}
        </Typography>
      )}
      {report && <Report summary={report.summary} lines={report.lines} />}
      {job.speeds.filter(([, speed]) => speed > 0).length > 3 && (
        <Box component="details" open={job.state === 'running'} sx={{ mt: 1 }}>
          <summary>Speed over time</summary>
          <Suspense fallback={<Box sx={{ height: 92 }} />}>
            <SpeedChart speeds={job.speeds} />
          </Suspense>
        </Box>
      )}
      <Actions job={job} />
    </Box>
  );
}

function Report({ summary, lines }: { summary: string; lines: readonly string[] }): ReactNode {
  return (
    <Box sx={{ mt: 1 }}>
      <Typography>{summary}</Typography>
      {lines.length > 0 && (
        <Box component="details" open={lines.length < 6}>
          <summary>{plural(lines.length, 'line')}</summary>
          <Box
            component="ul"
            sx={{ m: 0, pl: 2.5, maxHeight: 220, overflow: 'auto' }}
            tabIndex={0}
            aria-label="What it found"
          >
            {lines.map((line, index) => (
              <Typography
                key={index}
                component="li"
                variant="body2"
                className="path"
                sx={{ overflowWrap: 'anywhere' }}
              >
                {line}
              </Typography>
            ))}
          </Box>
        </Box>
      )}
    </Box>
  );
}

/** What a person can do about a failure, beside trying again. */
function WhatCanBeDone({ job }: { job: Job }): ReactNode {
  const error = job.error ?? '';
  const advice = /ENOSPC|disk is full|no space/i.test(error)
    ? 'Make room on the disk of the data folder, or remove a build in the store; then try again: it goes on where it was.'
    : /does not exist|vanished/.test(error)
      ? 'Bring the source back to its place, or bring the build in from another one.'
      : /could not be reached|answered with/.test(error)
        ? 'See whether the service runs and its address is right; the next look comes by itself.'
        : /database|ECONNREFUSED|connection/i.test(error)
          ? 'The database went away. When it is back, try again: it goes on where it was.'
          : 'Try again: what was done before counts.';
  return (
    <Typography variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
      {advice}
    </Typography>
  );
}

function Actions({ job }: { job: Job }): ReactNode {
  const [halt] = useHaltMutation();
  const [resume] = useResumeMutation();
  const [setPriority] = usePriorityMutation();
  const isOpen = job.state === 'running' || job.state === 'waiting';
  const canGoOn = job.state === 'paused' || job.state === 'stopped' || job.state === 'failed';
  if (!isOpen && !canGoOn) return null;
  return (
    <Box sx={{ mt: 1, display: 'flex', gap: 1, alignItems: 'center' }}>
      {isOpen && (
        <>
          <Button variant="outlined" onClick={() => void halt({ id: job.id, how: 'pause' })}>
            Pause
          </Button>
          <Button variant="outlined" onClick={() => void halt({ id: job.id, how: 'stop' })}>
            Stop
          </Button>
        </>
      )}
      {canGoOn && (job.build !== '' || job.kind !== 'index') && (
        <Button variant="outlined" onClick={() => void resume(job.id)}>
          {job.state === 'failed' ? 'Try again' : 'Go on'}
        </Button>
      )}
      {job.state === 'waiting' && (
        <Select
          variant="standard"
          disableUnderline
          value={priorityWords.has(job.priority) ? job.priority : 0}
          inputProps={{ 'aria-label': 'Priority' }}
          onChange={({ target }) => void setPriority({ id: job.id, priority: Number(target.value) })}
        >
          {[...priorityWords].map(([priority, words]) => (
            <MenuItem key={priority} value={priority}>
              {words}
            </MenuItem>
          ))}
        </Select>
      )}
    </Box>
  );
}

function RunningProgress({ progress }: { progress: Progress }): ReactNode {
  const { phase, files, totalFiles, bytes, totalBytes, bytesPerSecond, secondsLeft, seconds } = progress;
  const share = totalBytes ? bytes / totalBytes : totalFiles ? files / totalFiles : null;
  const parts = [
    `${files.toLocaleString('en')}${totalFiles === null ? '' : ` of ${totalFiles.toLocaleString('en')}`} files`,
    bytes > 0 ? `${bytesText(bytes)}${totalBytes === null ? '' : ` of ${bytesText(totalBytes)}`}` : '',
    bytesPerSecond > 0 ? `${bytesText(bytesPerSecond)} a second` : '',
    `${Math.round(seconds)} s so far`,
    secondsLeft === null ? '' : `about ${Math.ceil(secondsLeft)} s left`,
  ].filter(Boolean);
  return (
    <Box sx={{ mt: 1.5 }}>
      <LinearProgress
        aria-label={phase}
        variant={share === null ? 'indeterminate' : 'determinate'}
        value={share === null ? 0 : Math.min(100, share * 100)}
        sx={{ height: 6 }}
      />
      <Typography variant="body2" sx={{ mt: 0.5, fontVariantNumeric: 'tabular-nums' }}>
        {`${phase.charAt(0).toUpperCase()}${phase.slice(1)}: ${parts.join(', ')}`}
      </Typography>
    </Box>
  );
}
