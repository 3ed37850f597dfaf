import { Box, Button } from '@mui/material';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import type { FindingsPage, FindingsQuery } from '../../../contract/findings.ts';
import { ProgressLine } from '../../ui/progress-line.tsx';
import { useAppSelector } from '../../ui/store.ts';
import { useStartEvidenceMutation } from './api.ts';

const FolderMoves = lazy(async () => ({ default: (await import('./folder-moves.tsx')).FolderMoves }));

/**
 * What moved as a whole, and how far comparing is.
 * @param onNewFacts orders the list anew by facts that came in; null where there are none
 */
export function SpanLine({
  page,
  query,
  onNewFacts,
}: {
  page: FindingsPage;
  query: FindingsQuery;
  onNewFacts: (() => void) | null;
}): ReactNode {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      {page.folderMoves.length > 0 && (
        <Button
          sx={{ py: 0 }}
          aria-expanded={anchor !== null}
          onClick={({ currentTarget }) => setAnchor(currentTarget)}
        >
          {page.folderMoves.length === 1 ? 'One folder moved' : `${page.folderMoves.length} folders moved`}
        </Button>
      )}
      {anchor && (
        <Suspense fallback={null}>
          <FolderMoves moves={page.folderMoves} anchor={anchor} onClose={() => setAnchor(null)} />
        </Suspense>
      )}
      {/* In the place of what it is about: nothing moves away under somebody's hand. */}
      {onNewFacts ? (
        <Button sx={{ py: 0 }} variant="outlined" onClick={onNewFacts}>
          Sort by the newest facts
        </Button>
      ) : (
        <Evidence page={page} query={query} />
      )}
    </>
  );
}

/** How many of the findings were gone through. */
export function PassProgress({ page }: { page: FindingsPage }): ReactNode {
  const { open, kept, aside, done } = page.marks;
  const total = open + kept + aside + done;
  const gone = total - open;
  return (
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mr: 1 }}>
      <ProgressLine label="Progress of the pass" share={total === 0 ? 0 : gone / total} sx={{ width: 60 }} />
      <span
        style={{ whiteSpace: 'nowrap', fontSize: '0.85rem' }}
      >{`${gone.toLocaleString('en')} of ${total.toLocaleString('en')} marked`}</span>
    </Box>
  );
}

function Evidence({ page, query }: { page: FindingsPage; query: FindingsQuery }): ReactNode {
  const [start, { isLoading }] = useStartEvidenceMutation();
  const jobs = useAppSelector(({ work }) => work.jobs);
  const { state, job } = page.evidence;
  if (state === 'done') return <Quiet>all compared</Quiet>;
  const running = jobs.find(({ id }) => id === job);
  if (state !== 'none' && running?.state !== 'done') {
    const { files = 0, totalFiles = null, phase = 'comparing' } = running?.progress ?? {};
    const howFar = totalFiles ? `${files.toLocaleString('en')} of ${totalFiles.toLocaleString('en')}` : null;
    if (state === 'reading') return <Quiet>compared once all facts are read</Quiet>;
    return <Quiet>{howFar ? `${phase}, ${howFar}` : `${phase} …`}</Quiet>;
  }
  return (
    <Button
      sx={{ py: 0 }}
      variant="outlined"
      disabled={isLoading}
      onClick={() => void start({ channel: query.channel, from: query.from, to: query.to })}
    >
      Compare all that changed
    </Button>
  );
}

function Quiet({ children }: { children: string }): ReactNode {
  return (
    <Box component="span" role="status" sx={{ fontSize: '0.85rem', color: 'text.secondary' }}>
      {children}
    </Box>
  );
}
