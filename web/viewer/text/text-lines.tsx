import { foldAll, unfoldAll } from '@codemirror/language';
import type { Extension } from '@codemirror/state';
import { Box, Button, InputBase, Typography, useTheme } from '@mui/material';
import CodeMirror, { EditorView, type ReactCodeMirrorRef } from '@uiw/react-codemirror';
import { useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { editorLook } from '../../ui/editor-look.ts';
import { foldLines } from './fold-lines.ts';
import { foundPlaces, placeFrom } from './found-places.ts';
import { languageOf } from './language-of.ts';
import { markPlaces, markWords } from './mark-places.ts';
import { Toolbar } from '../toolbar.tsx';

/** A text with its lines numbered: coloured and folded by its format, and found in. */
export default function TextLines({
  text,
  format,
  path,
  isCut,
  children,
}: {
  text: string;
  format: string;
  path: string;
  /** Whether there is more than is shown. */
  isCut: boolean;
  /** Further tools above it. */
  children?: ReactNode;
}): ReactNode {
  const { palette } = useTheme();
  const editor = useRef<ReactCodeMirrorRef>(null);
  const field = useRef<HTMLInputElement>(null);
  const [words, setWords] = useState('');
  const [at, setAt] = useState(-1);
  const [language, setLanguage] = useState<Extension>([]);
  useEffect(() => {
    let isCurrent = true;
    const load = languageOf(format, path);
    void (load?.() ?? Promise.resolve([])).then((loaded) => {
      if (isCurrent) setLanguage(loaded);
    });
    return () => {
      isCurrent = false;
    };
  }, [format, path]);
  // As the editor counts: one letter for each end of a line.
  const bare = useMemo(() => text.replace(/\r\n|\r/g, '\n'), [text]);
  const look = useMemo(() => editorLook(palette), [palette]);
  const extensions = useMemo(
    () => [
      language,
      foldLines,
      markPlaces,
      EditorView.contentAttributes.of({ 'aria-label': 'Text', tabindex: '0' }),
    ],
    [language],
  );
  const { places, isCut: isMore } = useMemo(() => foundPlaces(bare, words), [bare, words]);
  const goTo = (next: number): void => {
    const view = editor.current?.view;
    const from = places[next];
    setAt(next);
    if (!view || from === undefined) return;
    const selection = { anchor: from, head: Math.min(from + words.length, view.state.doc.length) };
    view.dispatch({ selection, effects: EditorView.scrollIntoView(from, { y: 'center' }) });
  };
  const go = (isBack: boolean): void => {
    const selection = editor.current?.view?.state.selection.main;
    goTo(placeFrom(places, isBack ? (selection?.from ?? 0) : (selection?.to ?? 0), isBack));
  };
  useEffect(() => {
    const view = editor.current?.view;
    view?.dispatch({ effects: markWords.of(words) });
    // What is found first stands in view while it is typed.
    if (view && words !== '') goTo(placeFrom(places, view.state.selection.main.from, false));
    // Where the words are others.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [words]);
  const onFieldKey = (event: KeyboardEvent): void => {
    if (event.key !== 'Enter') return;
    event.preventDefault();
    go(event.shiftKey);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key.toLowerCase() !== 'f' || (!event.ctrlKey && !event.metaKey)) return;
    event.preventDefault();
    event.stopPropagation();
    field.current?.focus();
    field.current?.select();
  };
  return (
    <Box
      role="region"
      aria-label="Text"
      onKeyDownCapture={onKeyDown}
      sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Toolbar label="Text">
        {children}
        <InputBase
          inputRef={field}
          value={words}
          placeholder="Find in the text"
          onChange={({ target }) => setWords(target.value)}
          onKeyDown={onFieldKey}
          inputProps={{ 'aria-label': 'Find in the text', type: 'search' }}
          sx={{
            border: 1,
            borderColor: 'divider',
            px: 1,
            width: 200,
            height: 28,
            bgcolor: 'background.paper',
          }}
        />
        <Button size="small" disabled={places.length === 0} onClick={() => go(true)}>
          Before
        </Button>
        <Button size="small" disabled={places.length === 0} onClick={() => go(false)}>
          Next
        </Button>
        <Typography role="status" variant="body2" color="text.secondary" sx={{ minWidth: 90 }}>
          {words === '' ? '' : placesText(places.length, isMore, at)}
        </Typography>
        <Button
          size="small"
          onClick={() => {
            if (editor.current?.view) foldAll(editor.current.view);
          }}
        >
          Fold all
        </Button>
        <Button
          size="small"
          onClick={() => {
            if (editor.current?.view) unfoldAll(editor.current.view);
          }}
        >
          Unfold all
        </Button>
      </Toolbar>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'hidden', '& > div': { height: '100%' } }}>
        <CodeMirror
          ref={editor}
          value={bare}
          readOnly
          theme={look}
          height="100%"
          style={{ height: '100%' }}
          extensions={extensions}
          basicSetup={{ autocompletion: false, searchKeymap: false, highlightActiveLine: false }}
        />
      </Box>
      {isCut && (
        <Typography sx={{ px: 2, py: 0.5, bgcolor: 'background.paper' }} color="text.secondary">
          Only the first mebibyte is shown.
        </Typography>
      )}
    </Box>
  );
}

function placesText(count: number, isMore: boolean, at: number): string {
  if (count === 0) return 'Not there';
  const all = `${isMore ? 'more than ' : ''}${count.toLocaleString('en')}`;
  return at < 0 ? all : `${(at + 1).toLocaleString('en')} of ${all}`;
}
