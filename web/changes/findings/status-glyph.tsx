import { useTheme } from '@mui/material';
import type { ReactNode } from 'react';
import type { Status } from '../../../contract/kinds.ts';

/** Strokes on a square of 16, drawn rather than typed: no font has all of them. */
const strokes: Record<Status, string> = {
  added: 'M8 3v10M3 8h10',
  removed: 'M3 8h10',
  changed: 'M3 6h10M3 10h10M10.5 2.5l-5 11',
  repacked: 'M2 6c2-2 4 2 6 0s4 2 6 0M2 11c2-2 4 2 6 0s4 2 6 0',
  moved: 'M2 8h11M9 4l4 4-4 4',
  copied: 'M5 13V5h8M3 3v0M8 8h5v5H8z',
};

/** A status told by a glyph and a word; its colour says nothing that these do not. */
export function StatusWord({ status, rest = '' }: { status: Status; rest?: string }): ReactNode {
  const { palette } = useTheme();
  return (
    <span style={{ whiteSpace: 'nowrap', color: palette.statuses[status] }}>
      <svg
        viewBox="0 0 16 16"
        width="0.95em"
        height="0.95em"
        aria-hidden
        style={{ verticalAlign: '-0.1em', marginRight: '0.3em' }}
      >
        <path d={strokes[status]} fill="none" stroke="currentColor" strokeWidth={1.8} />
      </svg>
      {status}
      {rest}
    </span>
  );
}
