import { Box, Button, LinearProgress, Typography } from '@mui/material';
import dayjs from 'dayjs';
import type { ReactNode } from 'react';
import type { Job, Progress } from '../../contract/work.ts';
import { bytesText, plural } from '../../core/findings/evidence.ts';
import { PathText } from '../shell/path-text.tsx';
import { useResumeMutation, useStopMutation } from './api.ts';

const stateWords: Record<Job['state'], string> = {
  waiting: 'Waiting for its turn',
  paused: 'paused',
  running: 'Running',
  stopped: 'Stopped; it goes on where it was',
  done: 'Done',
  failed: 'Failed',
};

export function JobCard({ job }: { job: Job }): ReactNode {
  const [stop] = useStopMutation();
  const [resume] = useResumeMutation();
  const { progress, result } = job;
  return (
    <Box
      component="article"
      aria-label={`Build ${job.build} of ${job.title}`}
      sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper', p: 2 }}
    >
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline' }}>
        <Typography
          variant="h2"
          sx={{ flex: 1 }}
        >{`${job.title}, ${job.channel}, build ${job.build}`}</Typography>
        <Typography color={job.state === 'failed' ? 'primary' : 'text.secondary'}>
          {stateWords[job.state]}
        </Typography>
      </Box>
      <Box sx={{ color: 'text.secondary' }}>
        <PathText path={job.source} />
      </Box>
      {job.state === 'running' && progress && <RunningProgress progress={progress} />}
      {job.error && (
        <Typography role="alert" sx={{ mt: 1, overflowWrap: 'anywhere' }}>
          {job.error}
        </Typography>
      )}
      {result && (
        <Typography sx={{ mt: 1 }}>
          {`${plural(result.files, 'file')} in ${plural(result.containers, 'archive')}, ${bytesText(result.bytes)}; ${plural(result.newContents, 'new content')}, ${bytesText(result.newBytes)}; ${result.locked} locked, ${result.unreadable} unreadable; ${result.seconds.toFixed(1)} s, ended ${dayjs(job.finishedAt).format('D MMM, HH:mm')}.`}
        </Typography>
      )}
      <Box sx={{ mt: 1, display: 'flex', gap: 1 }}>
        {(job.state === 'running' || job.state === 'waiting') && (
          <Button variant="outlined" onClick={() => void stop(job.id)}>
            Stop
          </Button>
        )}
        {(job.state === 'stopped' || job.state === 'failed') && (
          <Button variant="outlined" onClick={() => void resume(job.id)}>
            {job.state === 'failed' ? 'Try again' : 'Go on'}
          </Button>
        )}
      </Box>
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
