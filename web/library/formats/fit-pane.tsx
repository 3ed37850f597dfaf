import { Box, Button, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import type { SheetFit } from '../../../contract/kept-sheets.ts';
import { fitCounts, joinFits } from '../../../core/formats/fit.ts';
import { plural } from '../../../core/figures.ts';
import { ProgressLine } from '../../ui/progress-line.tsx';
import { failureText } from '../../ui/api.ts';
import { usePlace } from '../../ui/use-span.ts';
import { useFitSheetMutation, useSetFormatVersionMutation } from './api.ts';

interface Props {
  where: { channel: number; build: string };
  text: string;
  isUsable: boolean;
  /** Of a sheet that the title has as it stands here: which of its versions the build’s files are read by first. */
  kept: { name: string; version: string | null } | null;
  onFile: (path: string) => void;
}

/** Tries the sheet on all files of the build that it is for, while other work goes on. */
export function FitPane({ where, text, isUsable, kept, onFile }: Props): ReactNode {
  const [ask] = useFitSheetMutation();
  const [fit, setFit] = useState<{ text: string; fit: SheetFit | null; isRunning: boolean } | null>(null);
  const [failure, setFailure] = useState('');
  const run = useRef(0);
  useEffect(
    () => () => {
      run.current++;
    },
    [],
  );
  const begin = async (): Promise<void> => {
    const number = ++run.current;
    setFailure('');
    let all: SheetFit | null = null;
    for (let from: number | null = 0; from !== null; from = all.next) {
      setFit({ text, fit: all, isRunning: true });
      const { data, error } = await ask({ ...where, text, from });
      if (number !== run.current) return;
      if (!data) {
        setFailure(failureText(error));
        break;
      }
      all = joinFits(all, data);
    }
    setFit({ text, fit: all, isRunning: false });
  };
  const stop = (): void => {
    run.current++;
    setFit((before) => before && { ...before, isRunning: false });
  };
  const isRunning = fit?.isRunning ?? false;
  return (
    <Box sx={{ p: 2, display: 'grid', gap: 1.5, alignContent: 'start' }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <Button variant="outlined" disabled={!isUsable || isRunning} onClick={() => void begin()}>
          Try on all files
        </Button>
        {isRunning && <Button onClick={stop}>Stop</Button>}
        {fit && fit.text !== text && !isRunning && (
          <Typography variant="body2" color="text.secondary">
            The sheet has changed since.
          </Typography>
        )}
      </Box>
      {failure !== '' && (
        <Typography role="alert" color="error">
          {failure}
        </Typography>
      )}
      {!fit && (
        <Typography color="text.secondary">
          How many files of this build fit, which do not, and why.
        </Typography>
      )}
      {fit?.fit && <Outcome {...{ where, kept, isRunning, onFile }} fit={fit.fit} />}
    </Box>
  );
}

function Outcome({
  fit,
  where,
  kept,
  isRunning,
  onFile,
}: Pick<Props, 'where' | 'kept' | 'onFile'> & { fit: SheetFit; isRunning: boolean }): ReactNode {
  const { tried, fitting } = fitCounts(fit);
  const count = (number: number): string => number.toLocaleString('en');
  return (
    <>
      {isRunning && (
        <ProgressLine label="Files tried" share={tried / Math.max(1, fit.files)} sx={{ width: '100%' }} />
      )}
      <Typography role="status">
        {fit.files === 0
          ? 'No file of this build is meant by the sheet.'
          : `${count(fitting)} of ${plural(fit.files, 'file')} fit${fitting === 1 ? 's' : ''}${tried < fit.files ? `; ${count(tried)} were tried` : ''}.`}
      </Typography>
      {fit.versions.length > 1 || fit.versions[0]?.version
        ? fit.versions.map(({ version, files }) => (
            <VersionLine key={version} {...{ where, kept, version, files }} />
          ))
        : null}
      {fit.failures.map(({ reason, files, paths }) => (
        <Box key={reason} sx={{ borderTop: 1, borderColor: 'divider', pt: 1 }}>
          <Typography variant="body2" color="error" sx={{ overflowWrap: 'anywhere' }}>
            {`${plural(files, 'file')}: ${reason}`}
          </Typography>
          {paths.map((path) => (
            <Button
              key={path}
              onClick={() => onFile(path)}
              className="path"
              sx={{ display: 'block', textAlign: 'left', fontWeight: 400, p: 0.25, overflowWrap: 'anywhere' }}
            >
              {path}
            </Button>
          ))}
        </Box>
      ))}
      {fit.left > 0 && (
        <Typography variant="body2" color="text.secondary">
          {`${plural(fit.left, 'file')} left out: larger than 64 MiB, or not there.`}
        </Typography>
      )}
    </>
  );
}

function VersionLine({
  where,
  kept,
  version,
  files,
}: Pick<Props, 'where' | 'kept'> & { version: string; files: number }): ReactNode {
  const { channel } = usePlace();
  const [say, { isLoading }] = useSetFormatVersionMutation();
  const { enqueueSnackbar } = useSnackbar();
  const build = channel?.builds.find(({ label }) => label === where.build);
  const isUsed = kept?.version === version;
  const use = async (next: string | null): Promise<void> => {
    if (!build || !kept) return;
    const { error } = await say({ buildId: build.id, sheet: kept.name, version: next });
    if (error) enqueueSnackbar(failureText(error), { variant: 'error' });
    else
      enqueueSnackbar(
        next === null
          ? `Build ${build.label} is read by the newest version that fits.`
          : `Build ${build.label} is read by version ${next} first.`,
      );
  };
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline', flexWrap: 'wrap' }}>
      <Typography variant="body2">
        {`Version ${version} fits ${files.toLocaleString('en')}.${isUsed ? ' It is tried first in this build.' : ''}`}
      </Typography>
      {kept && build && (
        <Button size="small" disabled={isLoading} onClick={() => void use(isUsed ? null : version)}>
          {isUsed ? 'Try the newest first' : `Try ${version} first in build ${build.label}`}
        </Button>
      )}
    </Box>
  );
}
