import { createTheme, type Theme } from '@mui/material/styles';
import type { Status } from '../../contract/kinds.ts';

export const serif = '"Literata", Georgia, serif';
export const mono = '"IBM Plex Mono", ui-monospace, monospace';
const sans = '"Atkinson Hyperlegible", system-ui, sans-serif';

/** Paper by day, night by night. Every text colour reaches 4.5 to 1 on its ground (WCAG 2.2, 1.4.3). */
const grounds = {
  light: {
    paper: '#f6f0e2',
    sheet: '#fbf7ec',
    plate: '#efe7d4',
    ink: '#14393b',
    faint: '#4d6463',
    rule: '#cfc4aa',
    accent: '#a83c14',
    fault: '#9c1f35',
    statuses: {
      added: '#0f6468',
      removed: '#7d3460',
      changed: '#82480c',
      repacked: '#5c564a',
      moved: '#3a4f8f',
      copied: '#565a1c',
    },
  },
  dark: {
    paper: '#122027',
    sheet: '#182a32',
    plate: '#1f343c',
    ink: '#ece5d3',
    faint: '#a9b8b6',
    rule: '#39525a',
    accent: '#f2945f',
    fault: '#f79aa5',
    statuses: {
      added: '#7fd3cb',
      removed: '#e6a5c9',
      changed: '#f0bd7c',
      repacked: '#c9c1b2',
      moved: '#acc1f4',
      copied: '#ced48d',
    },
  },
} as const;

export type Mode = keyof typeof grounds;

declare module '@mui/material/styles' {
  interface Palette {
    plate: string;
    statuses: Record<Status, string>;
  }
  interface PaletteOptions {
    plate?: string;
    statuses?: Record<Status, string>;
  }
}

export function createLook(mode: Mode): Theme {
  const ground = grounds[mode];
  return createTheme({
    palette: {
      mode,
      background: { default: ground.paper, paper: ground.sheet },
      text: { primary: ground.ink, secondary: ground.faint },
      primary: { main: ground.accent, contrastText: mode === 'light' ? '#ffffff' : '#122027' },
      secondary: { main: ground.ink },
      error: { main: ground.fault },
      divider: ground.rule,
      plate: ground.plate,
      statuses: ground.statuses,
    },
    shape: { borderRadius: 2 },
    typography: {
      fontFamily: sans,
      fontSize: 14,
      h1: { fontFamily: serif, fontSize: '1.55rem', fontWeight: 600, lineHeight: 1.2 },
      h2: { fontFamily: serif, fontSize: '1.12rem', fontWeight: 600, lineHeight: 1.3 },
      h3: { fontFamily: serif, fontSize: '1rem', fontWeight: 600, fontStyle: 'italic' },
      button: { textTransform: 'none', fontWeight: 700 },
    },
    transitions: { create: () => 'none' },
    components: {
      MuiCssBaseline: {
        styleOverrides: {
          'html, body, #root': { height: '100%' },
          body: { overflow: 'hidden' },
          'code, .path': { fontFamily: mono, fontSize: '0.82rem' },
          // Lists show hundreds of these at once: their look is said here, and not with each of them.
          '.path-line': {
            ...{ display: 'block', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
            ...{ direction: 'rtl', textAlign: 'left' },
          },
          '.small-picture': { maxWidth: '100%', maxHeight: '100%', objectFit: 'contain' },
          '.plated': {
            ...{ flexShrink: 0, display: 'flex', alignItems: 'center', justifyContent: 'center' },
            ...{ overflow: 'hidden', background: ground.plate, contain: 'layout paint' },
          },
          // Of the size of their plate from the start: nothing is laid out anew when one comes.
          '.plated > .small-picture': { width: '100%', height: '100%', objectFit: 'scale-down' },
          a: { color: ground.accent },
          '*:focus-visible': { outline: `2px solid ${ground.accent}`, outlineOffset: 2 },
          '@media (prefers-reduced-motion: reduce)': {
            '*, *::before, *::after': {
              animation: 'none !important',
              transition: 'none !important',
              scrollBehavior: 'auto !important',
            },
          },
        },
      },
      MuiPaper: { defaultProps: { elevation: 0 }, styleOverrides: { root: { backgroundImage: 'none' } } },
      MuiButtonBase: { defaultProps: { disableRipple: true } },
      MuiButton: { defaultProps: { disableElevation: true, size: 'small' } },
      MuiTextField: { defaultProps: { size: 'small' } },
      MuiSelect: { defaultProps: { size: 'small' } },
      // As wide as what is chosen, and not as the longest that could be.
      MuiNativeSelect: { styleOverrides: { select: { fieldSizing: 'content' } } },
    },
  });
}
