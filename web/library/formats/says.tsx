import { Box, Button, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { offsetText } from '../../../core/formats/language/sheet-error.ts';
import type { Outcome } from '../../../core/formats/workshop.ts';
import { bytesText } from '../../../core/figures.ts';
import type { SheetRemark } from './sheet-editor.tsx';

/** What stands at lines of the sheet: what is wrong with it, or the field at which the file does not fit. */
export function remarksOf(outcome: Outcome | null): SheetRemark[] {
  if (!outcome) return [];
  const { problems, misfit } = outcome;
  if (problems.length > 0) return problems;
  if (!misfit || misfit.line === null) return [];
  return [{ line: misfit.line, column: 1, message: misfitText(outcome) }];
}

function misfitText({ misfit, isText }: Outcome): string {
  if (!misfit) return '';
  const { at, where, message } = misfit;
  const place = at === null ? '' : isText ? `in line ${at}: ` : `at ${offsetText(at)}: `;
  return `${place}${where === '' ? '' : `${where}: `}${message}`;
}

/** What came of the sheet, in a sentence. */
export function Says({
  outcome,
  failure,
  onFault,
}: {
  outcome: Outcome | null;
  failure: string;
  onFault: (at: number) => void;
}): ReactNode {
  const problem = outcome?.problems[0];
  const misfit = outcome?.misfit ?? null;
  const version = outcome && outcome.version !== '' ? `Version ${outcome.version}: ` : '';
  const text =
    failure !== ''
      ? failure
      : problem
        ? `Line ${problem.line}: ${problem.message}`
        : misfit && outcome
          ? `${version}${misfitText(outcome)}`
          : outcome
            ? `${version}${outcome.says}`
            : '';
  const isWrong = failure !== '' || problem !== undefined || misfit !== null;
  return (
    <Box
      role="status"
      sx={{ borderTop: 1, borderColor: 'divider', px: 1.5, py: 0.75, maxHeight: 130, overflow: 'auto' }}
    >
      <Typography
        variant="body2"
        color={isWrong ? 'error' : 'text.primary'}
        sx={{ overflowWrap: 'anywhere' }}
      >
        {text}
      </Typography>
      {misfit?.at !== null && misfit?.at !== undefined && !outcome?.isText && (
        <Button onClick={() => onFault(misfit.at ?? 0)} sx={{ p: 0 }}>
          Show the byte
        </Button>
      )}
    </Box>
  );
}

/** Bytes that no field explains. */
export function Gaps({
  outcome: { gaps, problems },
  onGap,
}: {
  outcome: Outcome;
  onGap: (gap: { begin: number; end: number }) => void;
}): ReactNode {
  const [first] = gaps.first;
  if (problems.length > 0 || !first) return null;
  return (
    <Box sx={{ px: 2, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
      <Typography variant="body2" color="text.secondary" component="span">
        {`${bytesText(gaps.bytes)} that no field explains, in ${gaps.first.length >= 200 ? '200 places or more' : gaps.first.length === 1 ? 'one place' : `${gaps.first.length} places`}: `}
      </Typography>
      {gaps.first.slice(0, 4).map((gap) => (
        <Button key={gap.begin} onClick={() => onGap(gap)} className="path" sx={{ p: 0, minWidth: 0, mr: 1 }}>
          {offsetText(gap.begin)}
        </Button>
      ))}
    </Box>
  );
}
