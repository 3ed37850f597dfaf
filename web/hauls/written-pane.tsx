import { Box, Button, LinearProgress, Typography } from '@mui/material';
import { useEffect, type ReactNode } from 'react';
import type { HaulRun, Verdict } from '../../contract/hauls.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { useHaltMutation, useResumeMutation } from '../jobs/api.ts';
import { failureText } from '../ui/api.ts';
import { PathText } from '../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAppSelector } from '../ui/store.ts';
import { Toggle } from '../ui/toggle.tsx';
import { useAddress } from '../ui/use-address.ts';
import { useForgetRunMutation, useResultsQuery, useRunsQuery } from './api.ts';

const pageSize = 500;
const verdicts: readonly (readonly [Verdict | '', string, keyof HaulRun | null])[] = [
  ['', 'All', 'files'],
  ['the same', 'The same', 'same'],
  ['differs', 'Differ', 'differs'],
  ['failed', 'Not written', 'failed'],
];

/** What was written, and what came of reading it again. */
export function WrittenPane({ channel }: { channel: number }): ReactNode {
  const [parameters, change] = useAddress();
  const { data: runs, error, isLoading, refetch } = useRunsQuery(channel);
  if (isLoading) return <Loading what="what was written" />;
  if (error || !runs) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (runs.length === 0)
    return (
      <Empty title="Nothing was written yet">
        Say how it is to be written, look at what will come out, and write it to a folder or as a ZIP.
      </Empty>
    );
  const asked = Number(parameters.get('run'));
  const shown = runs.find(({ id }) => id === asked) ?? runs[0];
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        role="group"
        aria-label="Times that something was written"
        sx={{ px: 1.5, py: 0.5, display: 'flex', flexWrap: 'wrap', maxHeight: 92, overflow: 'auto' }}
      >
        {runs.map((run) => (
          <Toggle
            key={run.id}
            isOn={run.id === shown?.id}
            onClick={() => change({ run: String(run.id), verdict: undefined })}
          >
            {`${run.name}, ${timeOf(run.startedAt)}`}
          </Toggle>
        ))}
      </Box>
      {shown && <OneRun key={shown.id} run={shown} onChanged={() => void refetch()} />}
    </Box>
  );
}

function timeOf(iso: string): string {
  return new Date(iso).toLocaleString('en', {
    month: 'short',
    day: 'numeric',
    hour: '2-digit',
    minute: '2-digit',
  });
}

function OneRun({ run, onChanged }: { run: HaulRun; onChanged: () => void }): ReactNode {
  const [parameters, change] = useAddress();
  const job = useAppSelector(({ work }) => work.jobs.find(({ id }) => id === run.jobId));
  const [halt] = useHaltMutation();
  const [resume] = useResumeMutation();
  const [forget] = useForgetRunMutation();
  const state = job?.state ?? run.state;
  const done = run.same + run.differs + run.unchecked + run.failed;
  // The list was asked for when it began; the last of it comes with its end.
  useEffect(() => {
    if (state === 'done' && run.finishedAt === null) onChanged();
  }, [state, run.finishedAt, onChanged]);
  const verdict = (parameters.get('verdict') ?? '') as Verdict | '';
  const isRunning = state === 'running' || state === 'waiting';
  const files = job?.progress?.files ?? done;
  return (
    <>
      <Box sx={{ px: 2, py: 1, borderBlock: 1, borderColor: 'divider' }}>
        <Typography role="status" sx={{ overflowWrap: 'anywhere' }}>
          {isRunning
            ? `${files.toLocaleString('en')} of ${plural(run.files, 'asset')} written${run.folder ? ` to ${run.folder}` : ''}`
            : state === 'done'
              ? `${plural(run.files - run.failed, 'asset')} written${run.folder ? ` to ${run.folder}` : ''} and read again: ${run.same.toLocaleString('en')} the same, ${run.differs.toLocaleString('en')} differ${run.failed > 0 ? `, ${run.failed.toLocaleString('en')} not written` : ''}.`
              : `Stopped after ${done.toLocaleString('en')} of ${plural(run.files, 'asset')}. ${job?.error ?? ''}`}
        </Typography>
        {isRunning && (
          <LinearProgress
            aria-label="Writing"
            variant={state === 'waiting' ? 'indeterminate' : 'determinate'}
            value={(100 * files) / Math.max(1, run.files)}
            sx={{ my: 0.75 }}
          />
        )}
        <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap', alignItems: 'center' }}>
          {isRunning && run.jobId !== null && (
            <Button onClick={() => void halt({ id: run.jobId ?? 0, how: 'stop' })}>Stop</Button>
          )}
          {(state === 'stopped' || state === 'paused' || state === 'failed') && run.jobId !== null && (
            <Button variant="outlined" onClick={() => void resume(run.jobId ?? 0)}>
              Go on
            </Button>
          )}
          {state === 'done' && (
            <Button variant="outlined" component="a" href={`/api/hauls/runs/${run.id}/zip`} download>
              Fetch as ZIP
            </Button>
          )}
          {!isRunning && (
            <Button onClick={() => void forget(run.id)}>{run.folder ? 'Forget' : 'Throw away'}</Button>
          )}
          {verdicts.map(([value, label, count]) => (
            <Toggle
              key={label}
              isOn={verdict === value}
              onClick={() => change({ verdict: value || undefined })}
            >
              {`${label} ${count === null ? '' : Number(run[count]).toLocaleString('en')}`}
            </Toggle>
          ))}
        </Box>
      </Box>
      <Results run={run.id} verdict={verdict} offset={Number(parameters.get('from')) || 0} />
    </>
  );
}

function Results({
  run,
  verdict,
  offset,
}: {
  run: number;
  verdict: Verdict | '';
  offset: number;
}): ReactNode {
  const [, change] = useAddress();
  const { data, error, isLoading } = useResultsQuery({ run, verdict, offset, limit: pageSize });
  if (isLoading) return <Loading what="what came of it" />;
  if (error || !data) return <Failure text={failureText(error)} />;
  const { results } = data;
  return (
    <Box
      sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}
      tabIndex={0}
      role="group"
      aria-label="What came of each"
    >
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
        {results.map(({ path, target, verdict: own, sentence, files }) => (
          <Box
            component="li"
            key={`${path} ${target}`}
            sx={{ px: 2, py: 0.5, borderBottom: 1, borderColor: 'divider', contentVisibility: 'auto' }}
          >
            <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
              <Box sx={{ flex: 1, minWidth: 0 }}>
                <PathText path={target || path} />
              </Box>
              <Box
                component="span"
                sx={{
                  fontSize: '0.85rem',
                  whiteSpace: 'nowrap',
                  color: own === 'failed' ? 'error.main' : undefined,
                }}
              >
                {`${marks[own]} ${own === 'failed' ? 'not written' : own}`}
              </Box>
              <Box component="span" sx={{ width: 76, textAlign: 'right', fontSize: '0.85rem' }}>
                {files.length === 0 ? '' : bytesText(files.reduce((sum, { bytes }) => sum + bytes, 0))}
              </Box>
            </Box>
            {sentence !== '' && (
              <Typography variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
                {sentence}
              </Typography>
            )}
          </Box>
        ))}
      </Box>
      {(offset > 0 || results.length === pageSize) && (
        <Box sx={{ p: 1 }}>
          <Button
            disabled={offset === 0}
            onClick={() => change({ from: String(Math.max(0, offset - pageSize) || '') })}
          >
            Before
          </Button>
          <Button
            disabled={results.length < pageSize}
            onClick={() => change({ from: String(offset + pageSize) })}
          >
            Next
          </Button>
        </Box>
      )}
    </Box>
  );
}

/** With the word: nobody has to tell them by colour. */
const marks: Readonly<Record<Verdict, string>> = {
  waiting: '…',
  'the same': '=',
  differs: '≠',
  'not checked': '?',
  failed: '×',
};
