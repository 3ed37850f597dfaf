import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Finding } from '../../../contract/findings.ts';
import type { Mark, PassChange } from '../../../contract/pass.ts';
import { describe } from '../../../core/findings/evidence.ts';
import { bytesText } from '../../../core/figures.ts';
import { contentAddress } from '../../viewer/asset-addresses.ts';
import { PassPanel } from '../pass/pass-panel.tsx';
import { comparePath, labelsOf } from '../../ui/compare-address.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { Plate } from '../../ui/plate.tsx';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { FindingPreview } from './finding-items.tsx';
import { StatusWord } from './status-glyph.tsx';

interface Props {
  finding: Finding;
  number: number;
  total: number;
  people: readonly string[];
  labels: readonly string[];
  onMark: (mark: Mark) => void;
  onChange: (change: PassChange) => void;
  onOpen: () => void;
  onEntry: () => void;
  onPair: (said: 'joined' | 'parted') => void;
}

/** The finding that is selected, with how it differs, where it stands in the pass, and what can be done to it. */
export function FindingDetail(props: Props): ReactNode {
  const { finding, number, total, people, labels, onMark, onChange, onOpen, onEntry, onPair } = props;
  const place = usePlace();
  const span = useSpan();
  const isChanged = finding.status === 'changed' || finding.status === 'repacked';
  return (
    <Box
      component="aside"
      aria-label="Selected finding"
      sx={{
        width: { xs: 'auto', md: 300, lg: 340 },
        maxHeight: { xs: '50%', md: 'none' },
        borderLeft: { xs: 0, md: 1 },
        borderTop: { xs: 1, md: 0 },
        borderColor: { xs: 'divider', md: 'divider' },
        p: { xs: 1.25, md: 2 },
        overflow: 'auto',
        bgcolor: 'background.paper',
      }}
    >
      <Typography variant="caption" color="text.secondary">
        {`${number.toLocaleString('en')} of ${total.toLocaleString('en')}${finding.carriedFrom ? `, left open from ${finding.carriedFrom.from} to ${finding.carriedFrom.to}` : ''}`}
      </Typography>
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {nameOf(finding.path)}
      </Typography>
      <Typography sx={{ fontWeight: 700 }}>
        <StatusWord status={finding.status} rest={` ${finding.kind}`} />
      </Typography>
      <Box sx={{ display: 'flex', gap: 1, my: 1 }}>
        {isChanged && <State label="before" finding={finding} isOld />}
        <State
          label={isChanged ? 'after' : finding.status === 'removed' ? 'as it was' : ''}
          finding={finding}
          isOld={finding.status === 'removed'}
        />
        {finding.differencePicture !== null && (
          <Box component="figure" sx={{ m: 0, flex: 1, minWidth: 0 }}>
            <Plate height={104}>
              <Box
                component="img"
                src={contentAddress(finding.differencePicture, 'webp')}
                alt=""
                sx={{ maxWidth: '100%', maxHeight: '100%', objectFit: 'contain' }}
              />
            </Plate>
            <Typography component="figcaption" variant="caption" color="text.secondary">
              what differs
            </Typography>
          </Box>
        )}
      </Box>
      <Typography sx={{ mb: 0.5, overflowWrap: 'anywhere' }}>{finding.evidence}</Typography>
      {finding.foldedBy !== null && (
        <Typography variant="body2" color="text.secondary">{`Folded away: ${finding.foldedBy}.`}</Typography>
      )}
      {finding.likeness && (
        <Box sx={{ display: 'flex', gap: 1 }}>
          {finding.likeness.said === 'proposed' && (
            <Button variant="outlined" onClick={() => onPair('joined')}>
              They are one
            </Button>
          )}
          <Button variant="outlined" onClick={() => onPair('parted')}>
            Part them
          </Button>
        </Box>
      )}
      <Typography variant="body2" color="text.secondary">
        {[
          describe(finding.facts ?? finding.oldFacts),
          bytesText(finding.size ?? finding.oldSize),
          finding.format,
        ]
          .filter(Boolean)
          .join(', ')}
      </Typography>
      <Box className="path" sx={{ overflowWrap: 'anywhere', my: 0.5 }}>
        {finding.path}
      </Box>
      {finding.oldPath !== null && finding.oldPath !== finding.path && (
        <Box
          className="path"
          sx={{ overflowWrap: 'anywhere', color: 'text.secondary', mb: 0.5 }}
        >{`from ${finding.oldPath}`}</Box>
      )}
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75, my: 1 }}>
        <Button variant="contained" onClick={onOpen}>
          Open
        </Button>
        {finding.oldHash !== null && finding.hash !== null && (
          <Button
            variant="outlined"
            component={Link}
            to={comparePath(place, finding.carriedFrom ?? labelsOf(span), finding)}
          >
            Compare
          </Button>
        )}
        {(['kept', 'aside', 'done'] as const).map((mark) => (
          <Button
            key={mark}
            variant="outlined"
            aria-pressed={finding.pass.mark === mark}
            onClick={() => onMark(mark)}
          >
            {actionWord(mark, finding.pass.mark === mark)}
          </Button>
        ))}
        <Button onClick={onEntry}>Start an entry</Button>
      </Box>
      <PassPanel finding={finding} people={people} labels={labels} onChange={onChange} />
      <Typography variant="caption" color="text.secondary" sx={{ display: 'block', mt: 1.5 }}>
        Arrows go through, k keeps, s sets aside, d is done, c compares, u takes back;{' '}
        <MuiLink component={Link} to="/keys">
          all keys
        </MuiLink>
        .
      </Typography>
    </Box>
  );
}

function actionWord(mark: Exclude<Mark, 'open'>, isOn: boolean): string {
  const words = {
    kept: ['Keep', 'Kept'],
    aside: ['Set aside', 'Is set aside'],
    done: ['Done', 'Is done'],
  } as const;
  return words[mark][isOn ? 1 : 0];
}

function State({ label, finding, isOld }: { label: string; finding: Finding; isOld: boolean }): ReactNode {
  return (
    <Box component="figure" sx={{ m: 0, flex: 1, minWidth: 0 }}>
      <Plate height={104}>
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
