import type { SystemStyleObject } from '@mui/system';
import type { Theme } from '@mui/material/styles';

type Style = SystemStyleObject<Theme>;

/** A view with a pane at its side; on a narrow screen the pane is below, and the whole is scrolled. */
export const paneRow: Style = {
  display: 'flex',
  flexDirection: { xs: 'column', md: 'row' },
  flex: 1,
  minHeight: 0,
  overflow: { xs: 'auto', md: 'visible' },
  // What is beside the pane keeps room to be looked at.
  '& > :first-of-type': { minHeight: { xs: '65vh', md: 0 } },
};

/** @param width of the pane in pixels, where the screen is wide */
export function sidePane(width: number): Style {
  return {
    width: { xs: 'auto', md: Math.min(width, 330), lg: width },
    flexShrink: 0,
    borderLeft: { xs: 0, md: 1 },
    borderTop: { xs: 1, md: 0 },
    borderColor: { xs: 'divider', md: 'divider' },
    overflow: { xs: 'visible', md: 'auto' },
  };
}
