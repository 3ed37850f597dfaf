import { Box, Button, LinearProgress, Link as MuiLink } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { FindingsPage, FindingsQuery } from '../../contract/findings.ts';
import { usePlace, useSpan, spanQuery, viewPath } from '../shell/use-span.ts';
import { useAppSelector } from '../shell/store.ts';
import { useStartEvidenceMutation } from './api.ts';

/** How far the pass through the span is, what moved as a whole, and how far comparing is. */
export function SpanLine({ page, query }: { page: FindingsPage; query: FindingsQuery }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [isWide, setWide] = useState(false);
  const { open, kept, aside, done } = page.marks;
  const total = open + kept + aside + done;
  const gone = total - open;
  return (
    <Box sx={{ borderBottom: 1, borderColor: 'divider', px: 2, py: 0.4, fontSize: '0.85rem' }}>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'center' }}>
        <LinearProgress
          variant="determinate"
          value={total === 0 ? 0 : (100 * gone) / total}
          aria-label="Progress of the pass"
          sx={{ width: 120, height: 5 }}
        />
        <span>{`${gone.toLocaleString('en')} of ${total.toLocaleString('en')} gone through`}</span>
        {page.folderMoves.length > 0 && (
          <Button sx={{ py: 0 }} aria-expanded={isWide} onClick={() => setWide(!isWide)}>
            {page.folderMoves.length === 1 ? 'One folder moved' : `${page.folderMoves.length} folders moved`}
          </Button>
        )}
        <MuiLink component={Link} to={`${viewPath(place, 'noise')}?${spanQuery(span)}`}>
          Rules for noise
        </MuiLink>
        <Box sx={{ flex: 1 }} />
        <Evidence page={page} query={query} />
      </Box>
      {isWide && (
        <Box component="ul" sx={{ m: 0, pl: 2, maxHeight: 140, overflow: 'auto' }}>
          {page.folderMoves.map(({ from, to, files }) => (
            <li key={from}>
              <span className="path">{`${from} → ${to}`}</span>
              {`, ${files.toLocaleString('en')} files`}
            </li>
          ))}
        </Box>
      )}
    </Box>
  );
}

function Evidence({ page, query }: { page: FindingsPage; query: FindingsQuery }): ReactNode {
  const [start, { isLoading }] = useStartEvidenceMutation();
  const jobs = useAppSelector(({ work }) => work.jobs);
  const { state, job } = page.evidence;
  if (state === 'done') return <span>all compared</span>;
  const running = jobs.find(({ id }) => id === job);
  if (state === 'running' && running?.state !== 'done') {
    const { files = 0, totalFiles = null, phase = 'comparing' } = running?.progress ?? {};
    return <span role="status">{`${phase}${totalFiles ? `, ${files.toLocaleString('en')} of ${totalFiles.toLocaleString('en')}` : ' …'}`}</span>;
  }
  return (
    <Button sx={{ py: 0 }} variant="outlined" disabled={isLoading} onClick={() => void start({ channel: query.channel, from: query.from, to: query.to })}>
      Compare all that changed
    </Button>
  );
} // prettier-ignore
