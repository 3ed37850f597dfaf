import { autocompletion, type Completion, type CompletionContext } from '@codemirror/autocomplete';
import { yaml } from '@codemirror/lang-yaml';
import { lintGutter, setDiagnostics, type Diagnostic } from '@codemirror/lint';
import { Box, useTheme } from '@mui/material';
import CodeMirror, { EditorView, type ReactCodeMirrorRef } from '@uiw/react-codemirror';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { sheetWords, writingPlace, type SheetWord } from '../../../core/formats/sheet-words.ts';
import { editorLook } from '../../ui/editor-look.ts';

/** What is wrong, at a line of the sheet from 1. */
export interface SheetRemark {
  line: number;
  column: number;
  message: string;
}

interface Props {
  text: string;
  remarks: readonly SheetRemark[];
  onChange: (text: string) => void;
}

/** The sheet as it is written, with the words that fit, and what is wrong at its line. */
export default function SheetEditor({ text, remarks, onChange }: Props): ReactNode {
  const { palette } = useTheme();
  const editor = useRef<ReactCodeMirrorRef>(null);
  useEffect(() => {
    const view = editor.current?.view;
    view?.dispatch(
      setDiagnostics(
        view.state,
        remarks.map((remark) => diagnosticOf(view, remark)),
      ),
    );
  }, [remarks]);
  const look = useMemo(() => editorLook(palette), [palette]);
  const extensions = useMemo(
    () => [
      ...[
        yaml(),
        lintGutter(),
        autocompletion({ override: [completions], selectOnOpen: false }),
        EditorView.lineWrapping,
      ],
      EditorView.contentAttributes.of({ 'aria-label': 'Format sheet' }),
    ],
    [],
  );
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: 'hidden',
        height: { xs: 320, md: 'auto' },
      }}
    >
      <CodeMirror
        ref={editor}
        value={text}
        onChange={onChange}
        theme={look}
        height="100%"
        style={{ height: '100%' }}
        extensions={extensions}
        basicSetup={{ foldGutter: false, autocompletion: false }}
      />
    </Box>
  );
}

function diagnosticOf({ state }: EditorView, { line, column, message }: SheetRemark): Diagnostic {
  const { from, to } = state.doc.line(Math.min(Math.max(1, line), state.doc.lines));
  const begin = Math.min(to, from + Math.max(0, column - 1));
  return { from: begin, to: Math.max(begin, to), severity: 'error', message };
}

const typeOf: Record<SheetWord['kind'], string> = {
  ...{ key: 'property', type: 'type', function: 'function', field: 'variable', packing: 'keyword' },
  'pixel format': 'enum',
};

function completions(context: CompletionContext) {
  const { state, pos, explicit } = context;
  const word = context.matchBefore(/[\w-]*/);
  const from = word?.from ?? pos;
  if (from === pos && !explicit) return null;
  const text = state.doc.toString();
  const options = sheetWords(writingPlace(text.slice(0, from)), text).map(
    ({ word: label, kind, says }): Completion => ({
      ...{ label, type: typeOf[kind] },
      ...(says !== undefined && { detail: says }),
      ...(kind === 'key' && { apply: `${label}: ` }),
    }),
  );
  return { from, options, validFor: /^[\w-]*$/ };
}
