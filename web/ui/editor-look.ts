import { HighlightStyle, syntaxHighlighting } from '@codemirror/language';
import type { Extension } from '@codemirror/state';
import { EditorView } from '@codemirror/view';
import { tags } from '@lezer/highlight';
import type { Palette } from '@mui/material';
import { mono } from './theme.ts';

/** How texts look where they are written and read: in the inks of the house. */
export function editorLook({
  mode,
  text: ink,
  primary,
  background,
  divider,
  statuses,
  plate,
}: Palette): Extension {
  return [
    EditorView.theme(
      {
        '&': { backgroundColor: background.paper, color: ink.primary, fontSize: '0.82rem' },
        '&.cm-focused': { outline: `2px solid ${primary.main}`, outlineOffset: '-2px' },
        '.cm-content, .cm-gutters': { fontFamily: mono },
        '.cm-gutters': { backgroundColor: background.default, color: ink.secondary, border: 'none' },
        '.cm-activeLine, .cm-activeLineGutter': { backgroundColor: `${plate}88` },
        '.cm-cursor': { borderLeftColor: ink.primary },
        '.cm-tooltip': {
          backgroundColor: background.paper,
          border: `1px solid ${divider}`,
          color: ink.primary,
        },
        '.cm-tooltip-autocomplete ul li[aria-selected]': {
          backgroundColor: `${plate} !important`,
          color: `${ink.primary} !important`,
        },
        '.cm-diagnostic': { fontFamily: mono },
        '.cm-foldPlaceholder': {
          backgroundColor: plate,
          border: `1px solid ${divider}`,
          color: ink.secondary,
        },
        '.cm-found': { backgroundColor: plate, outline: `1px solid ${ink.secondary}` },
        '.cm-selectionMatch': { backgroundColor: 'transparent' },
        '&.cm-focused > .cm-scroller > .cm-selectionLayer .cm-selectionBackground, .cm-selectionBackground': {
          backgroundColor: `${primary.main}66 !important`,
        },
      },
      { dark: mode === 'dark' },
    ),
    syntaxHighlighting(
      HighlightStyle.define([
        {
          tag: [tags.propertyName, tags.definition(tags.propertyName), tags.attributeName],
          color: statuses.moved,
        },
        { tag: [tags.tagName, tags.keyword, tags.heading], color: statuses.removed },
        { tag: [tags.string, tags.content, tags.attributeValue], color: ink.primary },
        { tag: [tags.comment, tags.meta], color: ink.secondary, fontStyle: 'italic' },
        { tag: [tags.number, tags.bool, tags.null, tags.atom], color: statuses.changed },
      ]),
    ),
  ];
}
