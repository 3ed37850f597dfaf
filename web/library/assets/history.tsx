import { visuallyHidden } from '@mui/utils';
import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Asset, HistoryStep } from '../../../contract/assets.ts';
import { bytesText } from '../../../core/figures.ts';
import { comparePath } from '../../ui/compare-address.ts';
import { Plate } from '../../ui/plate.tsx';
import { usePlace, viewPath } from '../../ui/use-span.ts';
import { Preview } from './preview.tsx';

/** What happened to the asset along the line of builds: a strip of what it looked like, with what changed each time. */
export function History({ asset }: { asset: Asset }): ReactNode {
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', px: 2, py: 0.75 }}>
      <Typography variant="h2" style={visuallyHidden}>
        Along the builds
      </Typography>
      <Box
        component="ol"
        tabIndex={0}
        aria-label="Along the builds"
        sx={{ listStyle: 'none', m: 0, p: 0, pb: 0.5, display: 'flex', gap: 1, overflowX: 'auto' }}
      >
        {asset.history.map((step, at) => (
          <Box
            component="li"
            key={`${step.sequence} ${step.what}`}
            sx={{ width: 232, flexShrink: 0, display: 'flex', gap: 1 }}
          >
            <Step asset={asset} step={step} before={asset.history[at - 1]} />
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function Step({
  asset,
  step,
  before,
}: {
  asset: Asset;
  step: HistoryStep;
  before: HistoryStep | undefined;
}): ReactNode {
  const place = usePlace();
  const isHere = step.hash !== null && step.hash === asset.hash;
  return (
    <>
      <Box
        sx={{ width: 84, flexShrink: 0, borderBottom: 2, borderColor: isHere ? 'primary.main' : 'divider' }}
      >
        <Plate height={64}>{step.hash !== null && <Preview {...step} kind={asset.kind} isSmall />}</Plate>
      </Box>
      <Box
        sx={{
          fontSize: '0.82rem',
          lineHeight: 1.25,
          minWidth: 0,
          maxHeight: 86,
          overflow: 'auto',
          overflowWrap: 'anywhere',
        }}
      >
        {step.hash === null ? (
          <strong>{step.build}</strong>
        ) : (
          <MuiLink
            component={Link}
            to={`${viewPath(place, 'asset')}?to=${encodeURIComponent(step.build)}&path=${encodeURIComponent(asset.path)}`}
          >
            <strong>{step.build}</strong>
          </MuiLink>
        )}
        {` ${step.what}`}
        {step.size !== null && <Box sx={{ color: 'text.secondary' }}>{bytesText(step.size)}</Box>}
        {step.sameAs !== null && <Box>{`the same as in ${step.sameAs}`}</Box>}
        {step.evidence !== '' && <Box>{step.evidence}</Box>}
        {['changed', 'repacked'].includes(step.what) && before?.hash && step.hash && (
          <MuiLink
            component={Link}
            to={comparePath(
              place,
              { from: before.build, to: step.build },
              { path: asset.path, oldPath: null },
            )}
          >
            Compare
          </MuiLink>
        )}
      </Box>
    </>
  );
}
