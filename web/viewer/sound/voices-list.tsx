import { Box, Typography } from '@mui/material';
import { useEffect, useMemo, useRef, type ReactNode } from 'react';
import { skipToken } from '@reduxjs/toolkit/query';
import { plural, secondsText } from '../../../core/figures.ts';
import { TreeList, type TreeRow } from '../../lists/tree-list.tsx';
import { nameOf } from '../../ui/path-text.tsx';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { useAssetsBesideQuery } from '../assets-api.ts';
import { useSpokenQuery } from './api.ts';

interface SoundRow extends TreeRow {
  seconds: number | null;
}

/** The sounds beside one in its folder, to go through with two keys, and what a voice says. */
export function VoicesList({
  channel,
  build,
  path,
  onOpen,
}: {
  channel: number;
  build: string;
  path: string;
  onOpen: (path: string) => void;
}): ReactNode {
  const { data } = useAssetsBesideQuery({ channel, build, path });
  const { data: spoken } = useSpokenQuery(path === '' ? skipToken : { channel, build, path });
  const rows = useMemo(
    () =>
      (data ?? []).flatMap(({ path: key, kind, figures }): SoundRow[] =>
        kind === 'sound' ? [{ key, depth: 0, isOpen: null, seconds: figures.seconds ?? null }] : [],
      ),
    [data],
  );
  const latest = useRef({ rows, path, onOpen });
  useEffect(() => {
    latest.current = { rows, path, onOpen };
  });
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent): void => {
      if ((event.key !== '[' && event.key !== ']') || !isForShortcut(event)) return;
      const { rows: list, path: here, onOpen: open } = latest.current;
      const at = list.findIndex(({ key }) => key === here);
      const next = list[(at + (event.key === '[' ? -1 : 1) + list.length) % Math.max(1, list.length)];
      if (next && next.key !== here) open(next.key);
      event.preventDefault();
    };
    window.addEventListener('keydown', onKeyDown);
    return () => window.removeEventListener('keydown', onKeyDown);
  }, []);
  return (
    <Box
      component="section"
      aria-label="Sounds beside this one"
      sx={{
        ...{ width: { xs: 'auto', sm: 236 }, maxHeight: { xs: 300, sm: 'none' }, flexShrink: 0 },
        ...{ display: 'flex', flexDirection: 'column', minHeight: 0, bgcolor: 'background.paper' },
        ...{
          borderLeft: { sm: 1 },
          borderTop: { xs: 1, sm: 0 },
          borderColor: { xs: 'divider', sm: 'divider' },
        },
      }}
    >
      {spoken && spoken.length > 0 && (
        <Box
          component="section"
          aria-label="What it says"
          sx={{ p: 1, borderBottom: 1, borderColor: 'divider', maxHeight: 220, overflow: 'auto' }}
        >
          {spoken.map(({ path: at, key, text, language }, place) => (
            <Box key={`${place} ${at}`} sx={{ mb: 0.75 }}>
              <Typography {...(language && { lang: language })}>{`“${text}”`}</Typography>
              <Typography variant="caption" color="text.secondary" title={at} component="div">
                {[language ?? '', key === language ? '' : key, nameOf(at)].filter(Boolean).join(', ')}
              </Typography>
            </Box>
          ))}
        </Box>
      )}
      <Typography variant="body2" sx={{ p: 1 }}>
        {`${plural(rows.length, 'sound')} here; [ and ] go from one to the next`}
      </Typography>
      <TreeList
        label="Sounds"
        rows={rows}
        chosen={path}
        onChoose={({ key }) => onOpen(key)}
        onOpen={() => undefined}
      >
        {({ key, seconds }) => (
          <>
            <Box
              component="span"
              className="path"
              title={key}
              sx={{
                flex: 1,
                minWidth: 0,
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
              }}
            >
              {nameOf(key)}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
              {seconds === null ? '' : secondsText(seconds)}
            </Box>
          </>
        )}
      </TreeList>
    </Box>
  );
}
