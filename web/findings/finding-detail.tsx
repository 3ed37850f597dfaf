import { Box, Button, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { Finding, Mark } from '../../contract/findings.ts';
import { describe } from '../../core/findings/evidence.ts';
import { bytesText } from '../../core/figures.ts';
import { FindingPreview } from './finding-items.tsx';
import { StatusWord } from './status-glyph.tsx';
import { nameOf } from '../shell/path-text.tsx';
import { Plate } from '../shell/plate.tsx';

interface Props {
  finding: Finding;
  number: number;
  total: number;
  onMark: (mark: Mark) => void;
  onOpen: () => void;
}

/** The finding that is selected, with what can be done to it. */
export function FindingDetail({ finding, number, total, onMark, onOpen }: Props): ReactNode {
  const isChanged = finding.status === 'changed';
  return (
    <Box
      component="aside"
      aria-label="Selected finding"
      sx={{
        width: 330,
        borderLeft: 1,
        borderColor: 'divider',
        p: 2,
        overflow: 'auto',
        bgcolor: 'background.paper',
      }}
    >
      <Typography
        variant="caption"
        color="text.secondary"
      >{`${number.toLocaleString('en')} of ${total.toLocaleString('en')}`}</Typography>
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {nameOf(finding.path)}
      </Typography>
      <Typography sx={{ fontWeight: 700 }}>
        <StatusWord status={finding.status} rest={` ${finding.kind}`} />
      </Typography>
      <Box sx={{ display: 'flex', gap: 1, my: 1.5 }}>
        {isChanged && <State label="before" finding={finding} isOld />}
        <State
          label={isChanged ? 'after' : finding.status === 'removed' ? 'as it was' : ''}
          finding={finding}
          isOld={finding.status === 'removed'}
        />
      </Box>
      <Typography sx={{ mb: 1 }}>{finding.evidence}</Typography>
      <Typography variant="body2" color="text.secondary">
        {[
          describe(finding.facts ?? finding.oldFacts),
          bytesText(finding.size ?? finding.oldSize),
          finding.format,
        ]
          .filter(Boolean)
          .join(', ')}
      </Typography>
      <Box className="path" sx={{ overflowWrap: 'anywhere', my: 1 }}>
        {finding.path}
      </Box>
      {finding.oldPath !== null && finding.oldPath !== finding.path && (
        <Box
          className="path"
          sx={{ overflowWrap: 'anywhere', color: 'text.secondary', mb: 1 }}
        >{`from ${finding.oldPath}`}</Box>
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1, mt: 2 }}>
        <Button variant="contained" onClick={onOpen}>
          Open
        </Button>
        <Button variant="outlined" aria-pressed={finding.mark === 'kept'} onClick={() => onMark('kept')}>
          {finding.mark === 'kept' ? 'Kept' : 'Keep'}
        </Button>
        <Button variant="outlined" aria-pressed={finding.mark === 'aside'} onClick={() => onMark('aside')}>
          {finding.mark === 'aside' ? 'Is set aside' : 'Set aside'}
        </Button>
      </Box>
      <Typography variant="caption" color="text.secondary" sx={{ display: 'block', mt: 2 }}>
        Arrows go through, k keeps, s sets aside, n notes, Enter opens.
      </Typography>
    </Box>
  );
}

function State({ label, finding, isOld }: { label: string; finding: Finding; isOld: boolean }): ReactNode {
  return (
    <Box component="figure" sx={{ m: 0, flex: 1, minWidth: 0 }}>
      <Plate height={140}>
        <FindingPreview finding={finding} isOld={isOld} />
      </Plate>
      {label && (
        <Typography component="figcaption" variant="caption" color="text.secondary">
          {label}
        </Typography>
      )}
    </Box>
  );
}
