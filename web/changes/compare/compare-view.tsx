import { paneRow, sidePane } from '../../ui/side-pane.ts';
import { Box, Link as MuiLink, Typography } from '@mui/material';
import { lazy, Suspense, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { ComparedStates } from '../../../contract/assets.ts';
import { failureText } from '../../ui/api.ts';
import { nameOf, PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan, viewPath } from '../../ui/use-span.ts';
import { useComparedQuery } from './api.ts';
import { FiguresPanel } from './figures-panel.tsx';
import { StateChooser } from './state-chooser.tsx';

const PictureCompare = lazy(() => import('./picture-compare.tsx'));
const ModelCompare = lazy(() => import('./model-compare.tsx'));
const SoundCompare = lazy(() => import('./sound-compare.tsx'));
const MapCompare = lazy(() => import('./map-compare.tsx'));
const TextCompare = lazy(() => import('./text-compare.tsx'));

/** Two states beside each other: of one thing in two builds, or of any two things. */
export function CompareView(): ReactNode {
  const { channel } = usePlace();
  const span = useSpan();
  const [parameters] = useAddress();
  const path = parameters.get('path') ?? '';
  const states = {
    channel: channel.id,
    oldBuild: span.from?.label ?? span.to?.label ?? '',
    oldPath: parameters.get('oldPath') ?? path,
    newBuild: span.to?.label ?? '',
    newPath: path,
  };
  const { data, error, isFetching, refetch } = useComparedQuery(states, {
    skip: path === '' || states.newBuild === '',
  });
  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <StateChooser key={JSON.stringify(states)} states={states} />
      {path === '' ? (
        <Empty title="Nothing is compared yet">Give a path above, or come here from a finding.</Empty>
      ) : error ? (
        <Failure text={failureText(error)} onRetry={() => void refetch()} />
      ) : !data || isFetching ? (
        <Loading what="both, and comparing them" />
      ) : (
        <Compared states={data} />
      )}
    </Box>
  );
}

function Compared({ states }: { states: ComparedStates }): ReactNode {
  return (
    <Box sx={paneRow}>
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <Suspense fallback={<Loading what="the viewer" />}>
          <Exhibits states={states} />
        </Suspense>
      </Box>
      <Box
        component="aside"
        aria-label="How they differ"
        tabIndex={0}
        sx={{
          ...sidePane(330),
          p: 2,
          bgcolor: 'background.paper',
        }}
      >
        <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
          {states.comparison?.sentence ?? `They were not compared: ${states.reason ?? 'nobody knows why'}.`}
        </Typography>
        <Sides states={states} />
        <FiguresPanel states={states} />
      </Box>
    </Box>
  );
}

function Sides({ states }: { states: ComparedStates }): ReactNode {
  const place = usePlace();
  return (
    <Box sx={{ my: 1 }}>
      {[states.old, states.new].map(({ build, path }, at) => (
        <MuiLink
          key={at}
          component={Link}
          to={`${viewPath(place, 'asset')}?to=${encodeURIComponent(build)}&path=${encodeURIComponent(path)}`}
          sx={{ display: 'block' }}
        >
          {`${at === 0 ? 'before' : 'after'}, ${build}`}
          <PathText path={path} />
        </MuiLink>
      ))}
    </Box>
  );
}

function Exhibits({ states }: { states: ComparedStates }): ReactNode {
  const { old, new: now } = states;
  if (old.hash === null || now.hash === null)
    return <Empty title="One of them could not be read">{states.reason ?? ''}</Empty>;
  const kinds = new Set([old.kind, now.kind]);
  const isOneKind = kinds.size === 1 || (kinds.has('model') && kinds.has('clip'));
  if (!isOneKind)
    return (
      <Empty title="They are not of one kind">{`${nameOf(old.path)} is a ${old.kind}, ${nameOf(now.path)} a ${now.kind}.`}</Empty>
    );
  switch (now.kind) {
    case 'picture':
      return <PictureCompare states={states} />;
    case 'model':
    case 'clip':
      return <ModelCompare states={states} />;
    case 'sound':
      return <SoundCompare states={states} />;
    case 'map':
      return <MapCompare states={states} />;
    case 'text':
      return <TextCompare states={states} />;
    default:
      return (
        <Empty title={`There is no way to look at a ${now.kind} yet`}>
          What is known of both stands beside.
        </Empty>
      );
  }
}
