import { Box, Typography } from '@mui/material';
import type { MouseEvent, ReactNode } from 'react';
import type { Finding } from '../../../contract/findings.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { Preview } from '../../library/assets/preview.tsx';
import { PathText, folderOf, nameOf } from '../../ui/path-text.tsx';
import { StatusWord } from './status-glyph.tsx';

/** The finding's content, as it is or as it was. */
export function FindingPreview({
  finding,
  isOld,
  isSmall,
}: {
  finding: Finding;
  isOld: boolean;
  isSmall?: boolean;
}): ReactNode {
  const { format, oldFormat, kind } = finding;
  const state = isOld
    ? { hash: finding.oldHash, facts: finding.oldFacts, hasPreview: finding.hasOldPreview, format: oldFormat }
    : { hash: finding.hash, facts: finding.facts, hasPreview: finding.hasPreview, format };
  return <Preview {...state} kind={kind} isSmall={isSmall ?? false} />;
}

export const cardWidth = 196;
export const cardHeight = 226;
export const rowHeight = 40;

interface Item {
  /** Undefined until its page has come. */
  finding: Finding | undefined;
  index: number;
  total: number;
  isSelected: boolean;
  /** Whether it is among those that are chosen to be changed together. */
  isChosen: boolean;
  onSelect: (isFurther: boolean) => void;
  onOpen: () => void;
}

const markWords = { open: '', kept: '✓ kept', aside: '⌄ set aside', done: '■ done' } as const;

const isFaded = ({ pass }: Finding): boolean => pass.mark === 'aside' || pass.mark === 'done';

function optionProps({ index, total, isSelected, isChosen, onSelect, onOpen }: Item) {
  return {
    id: `finding-${index}`,
    role: 'option',
    'aria-selected': isSelected || isChosen,
    'aria-posinset': index + 1,
    'aria-setsize': total,
    onClick: (event: MouseEvent) => onSelect(event.shiftKey),
    onDoubleClick: onOpen,
  } as const;
}

/** A specimen: its picture on a plate, its label below. */
export function FindingCard(item: Item): ReactNode {
  const { finding, isSelected, isChosen } = item;
  return (
    <Box
      {...optionProps(item)}
      sx={{
        height: '100%',
        width: '100%',
        p: 0.75,
        cursor: 'default',
      }}
    >
      <Box
        data-active={isSelected}
        sx={{
          height: '100%',
          border: 1,
          borderColor: isSelected ? 'primary.main' : 'divider',
          outline: isSelected ? 1 : 0,
          outlineColor: 'primary.main',
          bgcolor: isChosen ? 'plate' : 'background.paper',
          display: 'flex',
          flexDirection: 'column',
        }}
      >
        <Box
          sx={{
            height: 134,
            bgcolor: 'plate',
            // The words stay as readable as they were.
            '& img, & svg, & pre': { opacity: finding && isFaded(finding) ? 0.4 : 1 },
            display: 'flex',
            alignItems: 'center',
            justifyContent: 'center',
            overflow: 'hidden',
            position: 'relative',
          }}
        >
          {finding && <FindingPreview finding={finding} isOld={finding.status === 'removed'} />}
          {finding && cornerText(finding) !== '' && <Corner side="right">{cornerText(finding)}</Corner>}
          {finding && (isChosen || finding.hasNote || finding.remarks > 0) && (
            <Corner side="left">
              {[
                isChosen ? '☑' : '',
                finding.hasNote ? '✎ note' : '',
                finding.remarks > 0 ? plural(finding.remarks, 'remark') : '',
              ]
                .filter(Boolean)
                .join(' ')}
            </Corner>
          )}
        </Box>
        <Box sx={{ px: 1, py: 0.5, minWidth: 0, borderTop: 1, borderColor: 'divider', flex: 1 }}>
          {finding ? (
            <>
              <Typography variant="body2" sx={{ fontWeight: 700 }}>
                <StatusWord status={finding.status} rest={` ${finding.kind}`} />
              </Typography>
              <PathText path={nameOf(finding.path)} />
              <Typography
                variant="caption"
                color="text.secondary"
                sx={{
                  display: '-webkit-box',
                  WebkitBoxOrient: 'vertical',
                  WebkitLineClamp: 2,
                  lineHeight: 1.25,
                  overflow: 'hidden',
                }}
              >
                {finding.evidence}
              </Typography>
            </>
          ) : (
            <Typography variant="caption">Loading…</Typography>
          )}
        </Box>
      </Box>
    </Box>
  );
}

/** Where it stands in the pass, and who has it. */
function cornerText({ pass, foldedBy }: Finding): string {
  return [
    markWords[pass.mark],
    pass.assignee === '' ? '' : `→ ${pass.assignee}`,
    foldedBy === null ? '' : 'noise',
  ]
    .filter(Boolean)
    .join(' ');
}

function Corner({ side, children }: { side: 'left' | 'right'; children: string }): ReactNode {
  return (
    <Box
      component="span"
      sx={{
        position: 'absolute',
        top: 0,
        [side]: 0,
        bgcolor: 'background.paper',
        px: 0.75,
        fontSize: '0.75rem',
      }}
    >
      {children}
    </Box>
  );
}

export function FindingRow(item: Item): ReactNode {
  const { finding, isSelected, isChosen } = item;
  return (
    <Box
      {...optionProps(item)}
      data-active={isSelected}
      sx={{
        display: 'grid',
        width: '100%',
        alignItems: 'center',
        px: 2,
        gap: 1.5,
        borderBottom: 1,
        borderColor: 'divider',
        cursor: 'default',
        gridTemplateColumns: '36px 92px 60px minmax(0, 1fr) minmax(0, 1.25fr) 74px 68px',
        bgcolor: isSelected || isChosen ? 'plate' : 'transparent',
        boxShadow: isSelected ? 'inset 3px 0 0 var(--accent)' : 'none',
        fontSize: '0.86rem',
      }}
    >
      {finding ? (
        <>
          <Box
            sx={{
              width: 36,
              height: 32,
              opacity: isFaded(finding) ? 0.4 : 1,
              display: 'flex',
              alignItems: 'center',
              justifyContent: 'center',
              overflow: 'hidden',
            }}
          >
            <FindingPreview finding={finding} isOld={finding.status === 'removed'} isSmall />
          </Box>
          <strong>
            <StatusWord status={finding.status} />
          </strong>
          <span>{finding.kind}</span>
          <Box sx={{ minWidth: 0 }}>
            <PathText path={nameOf(finding.path)} />
            <Box sx={{ color: 'text.secondary', fontSize: '0.85em', lineHeight: 1.1 }}>
              <PathText path={folderOf(finding.path)} />
            </Box>
          </Box>
          <Box
            title={finding.evidence}
            sx={{
              overflow: 'hidden',
              display: '-webkit-box',
              WebkitBoxOrient: 'vertical',
              WebkitLineClamp: 2,
              lineHeight: 1.15,
              fontSize: '0.8rem',
            }}
          >
            {finding.evidence}
          </Box>
          <Box sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}>
            {bytesText(finding.size ?? finding.oldSize)}
          </Box>
          <span>{(isChosen ? '☑ ' : '') + (cornerText(finding) || (finding.hasNote ? '✎ note' : ''))}</span>
        </>
      ) : (
        <Typography variant="caption" sx={{ gridColumn: '1 / -1' }}>
          Loading…
        </Typography>
      )}
    </Box>
  );
}
