import { Box, TextField, Typography, useMediaQuery, useTheme } from '@mui/material';
import type { SystemStyleObject } from '@mui/system';
import type { Theme } from '@mui/material/styles';
import { memo, useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { fieldPathText, type Run } from '../../../core/formats/field-tree.ts';
import { offsetText } from '../../../core/formats/language/sheet-error.ts';
import { sidesOf, valuesAt } from './byte-values.ts';
import { tintsOf } from './tints.ts';
import type { Thread } from './use-workshop.ts';

interface Props {
  thread: Thread;
  round: number;
  size: number;
  /** The byte that is looked at. */
  at: number;
  /** Bytes of the field that is chosen. */
  chosen: { begin: number; end: number } | null;
  /** The byte at which the file does not fit. */
  fault: number | null;
  onAt: (at: number, run: Run | null) => void;
}

const rowPixels = 33;

/** Bytes with their letters below them, in the colours of the fields that they belong to. Only what is seen is fetched. */
export function BytesView({ thread, round, size, at, chosen, fault, onAt }: Props): ReactNode {
  const { palette } = useTheme();
  const tints = tintsOf(palette.mode);
  const perRow = useMediaQuery('(min-width: 1200px)') ? 16 : 8;
  const holder = useRef<HTMLDivElement>(null);
  const [rows, setRows] = useState(16);
  const [top, setTop] = useState(0);
  const [seen, setSeen] = useState<{ begin: number; bytes: Uint8Array; runs: Run[] }>({
    ...{ begin: 0, bytes: new Uint8Array(0), runs: [] },
  });
  const lastTop = Math.max(0, Math.ceil(size / perRow) - rows + 1) * perRow;
  const begin = Math.min(top, lastTop);
  const end = Math.min(size, begin + rows * perRow);
  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const observer = new ResizeObserver(() =>
      setRows(Math.max(4, Math.floor(element.clientHeight / rowPixels))),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  useEffect(() => {
    let isCurrent = true;
    void thread.window(begin, end).then(
      (window) => isCurrent && setSeen({ begin, ...window }),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
  }, [thread, round, begin, end]);
  // What is looked at is in sight.
  useEffect(() => {
    const row = Math.floor(at / perRow) * perRow;
    setTop((before) => {
      if (row < before) return row;
      if (row >= before + rows * perRow) return Math.max(0, row - Math.floor(rows / 2) * perRow);
      return Math.floor(before / perRow) * perRow;
    });
  }, [at, perRow, rows]);

  const runAt = (place: number): Run | null =>
    seen.runs.find((run) => run.begin <= place && place < run.end) ?? null;
  const look = (place: number): void => {
    const next = Math.max(0, Math.min(size - 1, place));
    onAt(next, runAt(next));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const steps: Record<string, number> = {
      ...{ ArrowLeft: -1, ArrowRight: 1, ArrowUp: -perRow, ArrowDown: perRow },
      ...{ PageUp: -perRow * rows, PageDown: perRow * rows, Home: -size, End: size },
    };
    const step = steps[event.key];
    if (step === undefined) return;
    event.preventDefault();
    look(at + step);
  };
  const ofRun = (place: number): string => {
    const run = runAt(place);
    return run ? (tints[run.tint % tints.length] as string) : 'transparent';
  };
  const byteAt = (place: number): number | undefined =>
    place < end ? seen.bytes[place - seen.begin] : undefined;
  const markOf = (place: number): ByteProps['mark'] => {
    if (place === fault) return 'fault';
    if (place === at) return 'current';
    return chosen !== null && chosen.begin <= place && place < chosen.end ? 'chosen' : null;
  };
  const current = runAt(at);
  const isKnown = seen.begin <= at && at < seen.begin + seen.bytes.length;
  return (
    <Box
      component="section"
      aria-label="Bytes"
      sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Box
        ref={holder}
        tabIndex={0}
        role="application"
        aria-label="Bytes of the file: arrows go from byte to byte"
        aria-describedby="byte-looked-at"
        onKeyDown={onKeyDown}
        onClick={({ target }) => {
          const place = (target as HTMLElement).closest<HTMLElement>('[data-place]')?.dataset.place;
          if (place !== undefined) look(Number(place));
        }}
        onWheel={({ deltaY }) =>
          setTop(Math.max(0, Math.min(lastTop, begin + Math.sign(deltaY) * 3 * perRow)))
        }
        sx={[
          { flex: 1, minHeight: 200, overflow: 'hidden', px: 1, py: 0.5, bgcolor: 'background.paper' },
          byteLook,
        ]}
      >
        {Array.from({ length: rows }, (_, row) => begin + row * perRow)
          .filter((start) => start < size)
          .map((start) => (
            <Box key={start} sx={{ display: 'flex', height: rowPixels, alignItems: 'flex-start' }}>
              <Box
                component="span"
                className="path"
                sx={{
                  width: 78,
                  flexShrink: 0,
                  color: 'text.secondary',
                  pt: '2px',
                  fontSize: '0.75rem !important',
                }}
              >
                {start.toString(16).toUpperCase().padStart(6, '0')}
              </Box>
              {Array.from({ length: perRow }, (_, column) => start + column).map((place) => (
                <Byte
                  key={place}
                  place={place}
                  value={byteAt(place)}
                  tint={ofRun(place)}
                  mark={markOf(place)}
                  hasGap={place % 4 === 3}
                />
              ))}
            </Box>
          ))}
      </Box>
      <Box
        component="input"
        type="range"
        aria-label="Place in the file"
        min={0}
        max={Math.max(0, lastTop)}
        step={perRow}
        value={begin}
        onChange={({ target }) => setTop(Number(target.value))}
        sx={{ width: '100%', m: 0, accentColor: palette.primary.main }}
      />
      <Box
        id="byte-looked-at"
        sx={{
          px: 1,
          py: 0.5,
          borderTop: 1,
          borderColor: 'divider',
          display: 'flex',
          gap: 1.5,
          alignItems: 'center',
        }}
      >
        <GoTo size={size} at={at} onGo={look} />
        <Box sx={{ minWidth: 0, flex: 1 }} aria-live="polite">
          <Typography
            variant="body2"
            sx={{ fontWeight: 700, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
          >
            {current ? fieldPathText(current.path) : 'No field explains this byte'}
            {current && ` · ${sidesOf(current, at)}`}
          </Typography>
          <Typography
            variant="body2"
            className="path"
            color="text.secondary"
            sx={{ fontSize: '0.75rem !important' }}
          >
            {isKnown ? valuesAt(seen.bytes, at - seen.begin) : ''}
          </Typography>
        </Box>
      </Box>
    </Box>
  );
}

interface ByteProps {
  place: number;
  value: number | undefined;
  tint: string;
  mark: 'fault' | 'current' | 'chosen' | null;
  hasGap: boolean;
}

/** Hundreds of them are drawn at each key: those that stay the same are left alone, and their look is a class. */
const Byte = memo(function Byte({ place, value, tint, mark, hasGap }: ByteProps): ReactNode {
  const isLetter = value !== undefined && value > 32 && value < 127;
  return (
    <span
      data-place={place}
      className={`path byte ${mark ?? ''} ${tint === 'transparent' ? 'unknown' : ''} ${hasGap ? 'gap' : ''}`}
      style={{ backgroundColor: tint }}
    >
      {value === undefined ? ' ' : value.toString(16).toUpperCase().padStart(2, '0')}
      <span className="letter">{isLetter ? String.fromCharCode(value) : '·'}</span>
    </span>
  );
});

const byteLook: SystemStyleObject<Theme> = {
  '& .byte': {
    ...{ width: 25, height: 31, textAlign: 'center', cursor: 'default', lineHeight: '14px', flexShrink: 0 },
    ...{ border: 1, borderColor: 'transparent', fontSize: '0.78rem', color: 'text.primary' },
  },
  '& .byte.gap': { mr: '5px' },
  '& .byte.unknown': { color: 'text.secondary' },
  '& .byte.chosen': { borderColor: 'text.primary', fontWeight: 700 },
  '& .byte.current': { borderColor: 'primary.main', fontWeight: 700 },
  '& .byte.fault': { borderColor: 'error.main', borderWidth: 2, lineHeight: '13px' },
  '& .letter': { display: 'block', fontSize: '0.7rem', lineHeight: '13px', opacity: 0.85 },
};

function GoTo({ size, at, onGo }: { size: number; at: number; onGo: (at: number) => void }): ReactNode {
  const [text, setText] = useState('');
  const place = /^(0x[0-9a-f]+|\d+)$/i.test(text.trim()) ? Number(text.trim()) : null;
  const isThere = place !== null && place < size;
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (isThere) onGo(place);
      }}
    >
      <TextField
        label="Go to"
        variant="standard"
        placeholder={offsetText(at)}
        value={text}
        error={text !== '' && !isThere}
        onChange={({ target }) => setText(target.value)}
        slotProps={{ htmlInput: { className: 'path', size: 9 }, inputLabel: { shrink: true } }}
      />
    </Box>
  );
}
