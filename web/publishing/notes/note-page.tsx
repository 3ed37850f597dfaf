import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import { failureText } from '../../ui/api.ts';
import { PaneTabs } from '../../ui/pane-tabs.tsx';
import { nameOf, PathText } from '../../ui/path-text.tsx';
import { paneRow, sidePane } from '../../ui/side-pane.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useNoteQuery } from './api.ts';
import { NoteEditor } from './note-editor.tsx';
import { RemarksPane } from './remarks-pane.tsx';
import { RevisionsPane } from './revisions-pane.tsx';
import { RunPane } from './run-pane.tsx';

const panes = { run: 'Run again', remarks: 'Check', revisions: 'Revisions' } as const;
type Pane = keyof typeof panes;

/** How an asset was taken out: written on the left, run again and checked on the right. */
export function NotePage(): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [parameters] = useSearchParams();
  const [, set] = useAddress();
  const path = parameters.get('path') ?? '';
  const at = { channel: place.channel.id, path };
  const { currentData: note, error, refetch } = useNoteQuery(at, { skip: path === '' });
  if (path === '') return <Empty title="No asset is chosen">Open one, and its note from there.</Empty>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!note) return <Loading what="the note" />;
  const asked = parameters.get('pane') ?? '';
  const pane: Pane = asked in panes ? (asked as Pane) : 'run';
  return (
    <Box sx={paneRow}>
      <Box sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2 }}>
        <Typography variant="h1">{`Note on ${nameOf(path)}`}</Typography>
        <MuiLink component={Link} to={assetPath(place, span, path)} underline="hover">
          <PathText path={path} />
        </MuiLink>
        <NoteEditor key={note.revision} note={note} at={at} build={span.to?.label ?? ''} />
      </Box>
      <Box component="aside" aria-label="What the note comes to" sx={sidePane(430)}>
        <PaneTabs
          label="Panes of the note"
          panes={panes}
          shown={pane}
          onShow={(name) => set({ pane: name })}
        />
        <Box sx={{ p: 1.5 }}>
          {pane === 'run' && <RunPane at={at} note={note} />}
          {pane === 'remarks' && <RemarksPane at={at} />}
          {pane === 'revisions' && <RevisionsPane at={at} />}
        </Box>
      </Box>
    </Box>
  );
}
