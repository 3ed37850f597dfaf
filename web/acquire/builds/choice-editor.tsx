import { Box, Button, Checkbox, TextField, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, type ReactNode } from 'react';
import type { SeenSource } from '../../../contract/look.ts';
import { Choice, globOf, parentOf, type ChoiceGlobs } from '../../../core/containers/choice.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { PathText } from '../../ui/path-text.tsx';

interface Row {
  path: string;
  what: string;
  bytes: number;
  inside: string;
}

const rowHeight = 30;

/** What lies in a source, largest first, with a tick on what is to be brought in; and the globs that the ticks stand for. */
export function ChoiceEditor({
  seen,
  globs,
  onChange,
}: {
  seen: SeenSource | null;
  globs: ChoiceGlobs;
  onChange: (globs: ChoiceGlobs) => void;
}): ReactNode {
  const choice = useMemo(() => choiceOf(globs), [globs]);
  const rows = useMemo(() => (seen ? rowsOf(seen) : []), [seen]);
  const scroller = useRef<HTMLDivElement>(null);
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 8,
  });
  return (
    <Box component="section" aria-label="What to bring in">
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline', mt: 1 }}>
        <Typography variant="h2" sx={{ flex: 1 }}>
          What to bring in
        </Typography>
        {globs.only.length + globs.without.length > 0 && (
          <Button onClick={() => onChange({ only: [], without: [] })}>Everything again</Button>
        )}
      </Box>
      {seen && (
        <>
          <Typography color="text.secondary">
            {`${plural(seen.files, 'file')}, ${bytesText(seen.bytes)}${seen.contentRoot === '' ? '' : `; everything lies in ${seen.contentRoot}`}. Only heads and directories were looked at, in ${seen.seconds.toFixed(1)} s.`}
          </Typography>
          <Box
            ref={scroller}
            sx={{
              height: Math.min(240, rows.length * rowHeight + 2),
              overflow: 'auto',
              border: 1,
              borderColor: 'divider',
              mt: 1,
            }}
          >
            <Box
              role="list"
              aria-label="Folders and containers"
              sx={{ height: list.getTotalSize(), position: 'relative' }}
            >
              {list.getVirtualItems().map(({ index, start }) => {
                const row = rows[index];
                return (
                  row && (
                    <ChoiceRow
                      key={row.path}
                      row={row}
                      top={start}
                      isWanted={choice?.isLeftOut(row.path) === false}
                      onToggle={() => onChange(toggled(globs, row.path))}
                    />
                  )
                );
              })}
            </Box>
          </Box>
        </>
      )}
      <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 2, mt: 1.5 }}>
        <GlobField
          label="Include (one glob per line)"
          globs={globs.only}
          onChange={(only) => onChange({ ...globs, only })}
        />
        <GlobField
          label="Exclude (one glob per line)"
          globs={globs.without}
          onChange={(without) => onChange({ ...globs, without })}
        />
      </Box>
      {!choice && (
        <Typography role="alert" color="primary">
          One of the globs cannot be understood.
        </Typography>
      )}
    </Box>
  );
}

function ChoiceRow({
  row,
  top,
  isWanted,
  onToggle,
}: {
  row: Row;
  top: number;
  isWanted: boolean;
  onToggle: () => void;
}): ReactNode {
  return (
    <Box
      role="listitem"
      sx={{
        position: 'absolute',
        top,
        width: '100%',
        height: rowHeight,
        display: 'grid',
        gridTemplateColumns: '36px 78px 70px 210px minmax(0, 1fr)',
        alignItems: 'center',
        columnGap: 1,
        opacity: isWanted ? 1 : 0.75,
      }}
    >
      <Checkbox
        size="small"
        checked={isWanted}
        onChange={onToggle}
        slotProps={{ input: { 'aria-label': row.path === '' ? 'the archive' : row.path } }}
      />
      <Typography variant="body2" sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}>
        {bytesText(row.bytes)}
      </Typography>
      <Typography variant="body2">{row.what}</Typography>
      <Typography variant="body2" color="text.secondary" noWrap title={row.inside}>
        {row.inside}
      </Typography>
      <PathText path={row.path} />
    </Box>
  );
}

function GlobField({
  label,
  globs,
  onChange,
}: {
  label: string;
  globs: readonly string[];
  onChange: (globs: string[]) => void;
}): ReactNode {
  return (
    <TextField
      key={globs.join('\n')}
      label={label}
      defaultValue={globs.join('\n')}
      multiline
      maxRows={4}
      slotProps={{ htmlInput: { className: 'path', spellCheck: false } }}
      onBlur={({ target }) =>
        onChange(
          target.value
            .split('\n')
            .map((glob) => glob.trim())
            .filter(Boolean),
        )
      }
    />
  );
}

function choiceOf(globs: ChoiceGlobs): Choice | null {
  try {
    return new Choice(globs);
  } catch {
    // It is said beside the field.
    return null;
  }
}

function rowsOf(seen: SeenSource): Row[] {
  const containers = seen.containers.map(
    ({ path, format, bytes, entries, unpackedBytes, lock, reason }): Row => ({
      path,
      what: format,
      bytes,
      inside:
        reason ??
        [
          entries === null ? '' : `${plural(entries, 'file')}, ${bytesText(unpackedBytes)}`,
          lock === 'open' ? '' : lock,
        ]
          .filter(Boolean)
          .join(', '),
    }),
  );
  const folders = seen.folders.map(({ path, files, bytes }): Row => ({
    path,
    what: 'folder',
    bytes,
    inside: plural(files, 'file'),
  }));
  return [...containers, ...folders].sort((a, b) => b.bytes - a.bytes || (a.path < b.path ? -1 : 1));
}

/** Ticking changes the globs as little as it can: what was left out by its own name is wanted again, and the other way. */
export function toggled(globs: ChoiceGlobs, path: string): ChoiceGlobs {
  const glob = globOf(path);
  if (globs.without.includes(glob))
    return { ...globs, without: globs.without.filter((other) => other !== glob) };
  if (globs.only.includes(glob)) return { ...globs, only: globs.only.filter((other) => other !== glob) };
  if (!new Choice(globs).isLeftOut(path)) {
    // What was left out within it by name needs no glob of its own any more.
    return { ...globs, without: [...globs.without.filter((other) => !liesIn(other, path)), glob] };
  }
  // Left out by something that it lies in, or since it is not among what is wanted.
  return globs.only.length > 0
    ? { ...globs, only: [...globs.only, glob] }
    : { ...globs, without: globs.without.filter((other) => !coversByName(other, path)) };
}

function liesIn(glob: string, path: string): boolean {
  return (
    glob.startsWith(`${globOf(path).replace(/^\//, '')}/`) ||
    glob.startsWith(`${globOf(path).replace(/^\//, '')}\\!/`)
  );
}

function coversByName(glob: string, path: string): boolean {
  for (let at: string | null = path; at !== null; at = parentOf(at)) if (glob === globOf(at)) return true;
  return false;
}
