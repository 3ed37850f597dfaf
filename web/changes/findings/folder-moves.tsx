import { Box, Popover } from '@mui/material';
import type { ReactNode } from 'react';
import type { FindingsPage } from '../../../contract/findings.ts';

/** The folders that moved as a whole, from where to where, beside what was pressed. */
export function FolderMoves({
  moves,
  anchor,
  onClose,
}: {
  moves: FindingsPage['folderMoves'];
  anchor: HTMLElement;
  onClose: () => void;
}): ReactNode {
  return (
    <Popover
      open
      anchorEl={anchor}
      onClose={onClose}
      anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
    >
      <Box component="ul" sx={{ m: 1.5, pl: 2, maxHeight: 300, overflow: 'auto' }}>
        {moves.map(({ from, to, files }) => (
          <li key={from}>
            <span className="path">{`${from} → ${to}`}</span>
            {`, ${files.toLocaleString('en')} files`}
          </li>
        ))}
      </Box>
    </Popover>
  );
}
