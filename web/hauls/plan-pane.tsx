import { Box, Link as MuiLink, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { HaulPlan, PlannedFile } from '../../contract/hauls.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { PathText } from '../ui/path-text.tsx';
import { assetPath, usePlace, useSpan } from '../ui/use-span.ts';
import { MissingInHaul } from './missing-in-haul.tsx';

const rowPixels = 30;

/** What will come out, before anything is written: its sums, what is lost or missing, and every file. */
export function PlanPane({ plan }: { plan: HaulPlan }): ReactNode {
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <PlanSums plan={plan} />
      <PlanFiles files={plan.files} />
    </Box>
  );
}

function PlanSums({ plan }: { plan: HaulPlan }): ReactNode {
  const { totalFiles, totalAssets, bytes, seconds, clashes, losses, missing, refused } = plan;
  return (
    <Box sx={{ px: 2, py: 1, borderBottom: 1, borderColor: 'divider', maxHeight: '40%', overflow: 'auto' }}>
      <Typography role="status">
        {`${plural(totalFiles, 'file')} of ${plural(totalAssets, 'asset')}, about ${bytesText(bytes)}, in some ${timeText(seconds)}. ${
          clashes === 0 ? 'No names clash.' : `${plural(clashes, 'name')} told apart by numbers.`
        }`}
      </Typography>
      {losses.length > 0 && (
        <Typography variant="body2" color="text.secondary">
          {`Not held by the formats: ${losses.map(({ what, assets }) => `${what} (${plural(assets, 'asset')})`).join(', ')}.`}
        </Typography>
      )}
      <MissingInHaul missing={missing} />
      <Troubles
        title={`${plural(refused.length, 'asset')} cannot be taken out`}
        lines={refused.map(({ path, reason }) => `${path}: ${reason}`)}
      />
    </Box>
  );
}

function Troubles({ title, lines }: { title: string; lines: readonly string[] }): ReactNode {
  if (lines.length === 0) return null;
  return (
    <Box component="details" sx={{ mt: 0.5 }}>
      <Box component="summary" sx={{ cursor: 'pointer', color: 'primary.main' }}>
        {title}
      </Box>
      <Box component="ul" sx={{ m: 0, pl: 2.5, overflowWrap: 'anywhere' }}>
        {lines.map((line) => (
          <li key={line}>{line}</li>
        ))}
      </Box>
    </Box>
  );
}

function timeText(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  return `${Math.round(seconds / 60)} minutes`;
}

function PlanFiles({ files }: { files: readonly PlannedFile[] }): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: files.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowPixels,
    overscan: 12,
  });
  return (
    <Box
      ref={scroller}
      tabIndex={0}
      role="table"
      aria-label="What will come out"
      aria-rowcount={files.length}
      sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}
    >
      <Box sx={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const file = files[index];
          return file && <PlanRow key={index} file={file} index={index} top={start} />;
        })}
      </Box>
    </Box>
  );
}

function PlanRow({ file, index, top }: { file: PlannedFile; index: number; top: number }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { target, format, from, bytes, path, build, losses, insteadOf, why } = file;
  const notes = [
    why === 'chosen' ? '' : why,
    insteadOf === '' ? '' : `${insteadOf.slice(insteadOf.lastIndexOf('/') + 1)} is taken`,
    losses.length > 0 ? `without ${losses.join(', ')}` : '',
  ].filter((note) => note !== '');
  return (
    <Box
      role="row"
      aria-rowindex={index + 1}
      sx={{
        ...{ position: 'absolute', top, left: 0, right: 0, height: rowPixels, px: 2, py: 0.25 },
        ...{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr) 130px 84px', columnGap: 1 },
        ...{ alignContent: 'center', borderBottom: 1, borderColor: 'divider' },
      }}
    >
      <Box role="cell" sx={{ minWidth: 0, display: 'flex', gap: 1, alignItems: 'baseline' }}>
        <MuiLink
          component={Link}
          to={assetPath(place, span, path, build)}
          color="inherit"
          underline="hover"
          title={path}
          sx={{ minWidth: 0 }}
        >
          <PathText path={target} />
        </MuiLink>
        {notes.length > 0 && (
          <Typography
            component="span"
            variant="body2"
            color="text.secondary"
            title={notes.join('; ')}
            sx={{ flex: '1 1 35%', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
          >
            {notes.join('; ')}
          </Typography>
        )}
      </Box>
      <Box role="cell" sx={{ fontSize: '0.85rem' }}>
        {format === 'as it lay' ? `${from}, as it lay` : `${from} → ${format}`}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums', fontSize: '0.85rem' }}>
        {`${format === 'as it lay' ? '' : '~ '}${bytesText(bytes)}`}
      </Box>
    </Box>
  );
}
