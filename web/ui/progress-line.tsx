import { Box } from '@mui/material';
import type { Theme } from '@mui/material/styles';
import type { SystemStyleObject } from '@mui/system';
import type { ReactNode } from 'react';

/** How far something is, from 0 to 1; without a share, that it goes on. The browser’s own: it costs nothing to load. */
export function ProgressLine({
  label,
  share,
  sx,
}: {
  label: string;
  share?: number;
  sx?: SystemStyleObject<Theme>;
}): ReactNode {
  return (
    <Box
      component="progress"
      aria-label={label}
      {...(share === undefined ? {} : { max: 1, value: share })}
      sx={[
        { appearance: 'none', border: 0, height: 5, bgcolor: 'divider', color: 'primary.main' },
        {
          '&::-webkit-progress-bar': { bgcolor: 'divider' },
          '&::-moz-progress-bar': { bgcolor: 'primary.main' },
        },
        {
          '&::-webkit-progress-value': { bgcolor: 'primary.main' },
          '&:indeterminate': { bgcolor: 'primary.main' },
        },
        sx ?? {},
      ]}
    />
  );
}
