import { Box } from '@mui/material';
import type { ReactNode } from 'react';

/** The name of the file: what comes after the last slash. */
export function nameOf(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}

export function folderOf(path: string): string {
  return path.includes('/') ? path.slice(0, path.lastIndexOf('/') + 1) : '';
}

/** A path on one line; where it is too long its beginning is cut, since its end tells more. */
export function PathText({ path }: { path: string }): ReactNode {
  return (
    <Box
      component="span"
      className="path"
      title={path}
      sx={{
        display: 'block',
        overflow: 'hidden',
        textOverflow: 'ellipsis',
        whiteSpace: 'nowrap',
        direction: 'rtl',
        textAlign: 'left',
      }}
    >
      <bdi dir="ltr">{path}</bdi>
    </Box>
  );
}
