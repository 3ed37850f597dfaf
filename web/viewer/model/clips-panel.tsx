import { Box, Button, MenuItem, Slider, TextField, Typography } from '@mui/material';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { plural, secondsText } from '../../../core/figures.ts';
import { TreeList, type TreeRow } from '../../lists/tree-list.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import type { ClipEntry, Playing } from '../engine/clip-player.ts';

interface ClipRow extends TreeRow {
  clip: number;
  entry: ClipEntry;
}

const speeds = [0.1, 0.25, 0.5, 1, 2, 4];

/** Clips of a model, and what plays the chosen one. */
export function ClipsPanel({
  clips,
  playing,
  onMoments,
  onPlay,
  onSeek,
}: {
  clips: readonly ClipEntry[];
  playing: Playing;
  /** Has somebody told of the moments that are drawn, until it calls what comes back. */
  onMoments: (tell: (seconds: number) => void) => () => void;
  onPlay: (change: Partial<Playing>) => void;
  onSeek: (seconds: number) => void;
}): ReactNode {
  const [words, setWords] = useState('');
  const rows = useMemo(
    () =>
      clips.flatMap((entry, clip): ClipRow[] =>
        entry.name.toLowerCase().includes(words.trim().toLowerCase())
          ? [{ key: String(clip), depth: 0, isOpen: null, clip, entry }]
          : [],
      ),
    [clips, words],
  );
  const chosen = clips[playing.clip] ?? null;
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        {clips.length > 8 && (
          <TextFilter value={words} onChange={setWords} label="Words in names" name="Search the clips" />
        )}
        <Typography variant="body2">{`${plural(clips.length, 'clip')}; [ and ] go from one to the next`}</Typography>
      </Box>
      <TreeList
        label="Clips"
        rows={rows}
        chosen={chosen ? String(playing.clip) : null}
        onChoose={({ clip }) =>
          onPlay(clip === playing.clip ? { clip: -1, isRunning: false } : { clip, isRunning: true })
        }
        onOpen={() => undefined}
      >
        {({ entry: { name, seconds: length } }) => (
          <>
            <Box
              component="span"
              className="path"
              title={name}
              sx={{
                flex: 1,
                minWidth: 0,
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
              }}
            >
              {name}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
              {secondsText(length)}
            </Box>
          </>
        )}
      </TreeList>
      {chosen && <Transport key={playing.clip} {...{ entry: chosen, playing, onMoments, onPlay, onSeek }} />}
    </>
  );
}

function Transport({
  entry: { name, seconds: length, rate },
  playing,
  onMoments,
  onPlay,
  onSeek,
}: {
  entry: ClipEntry;
  playing: Playing;
  onMoments: (tell: (seconds: number) => void) => () => void;
  onPlay: (change: Partial<Playing>) => void;
  onSeek: (seconds: number) => void;
}): ReactNode {
  const seconds = useMoment(onMoments);
  const last = Math.round(length * rate);
  const frame = Math.min(last, Math.round(seconds * rate));
  const stepTo = (next: number): void => {
    onPlay({ isRunning: false });
    onSeek(Math.max(0, Math.min(length, next / rate)));
  };
  return (
    <Box
      role="group"
      aria-label={`Clip ${name}`}
      sx={{ p: 1, borderTop: 1, borderColor: 'divider', display: 'grid', gap: 0.5 }}
    >
      <Slider
        size="small"
        aria-label="Moment"
        min={0}
        max={length || 1}
        step={length > 0 ? length / 400 : 1}
        value={Math.min(seconds, length)}
        getAriaValueText={(value) => secondsText(value)}
        onChange={(_, value) => {
          onPlay({ isRunning: false });
          onSeek(value);
        }}
        sx={{ mx: 1, width: 'auto' }}
      />
      <Typography variant="body2" sx={{ fontVariantNumeric: 'tabular-nums' }}>
        {`Frame ${frame.toLocaleString('en')} of ${last.toLocaleString('en')}, ${seconds.toFixed(2)} of ${length.toFixed(2)} s, ${rate} a second`}
      </Typography>
      <Box sx={{ display: 'flex', gap: 0.25, flexWrap: 'wrap', alignItems: 'center' }}>
        <Button size="small" onClick={() => onPlay({ isRunning: !playing.isRunning })}>
          {playing.isRunning ? 'Pause' : 'Play'}
        </Button>
        <Button size="small" aria-label="−1 frame" onClick={() => stepTo(frame - 1)}>
          −1
        </Button>
        <Button size="small" aria-label="+1 frame" onClick={() => stepTo(frame + 1)}>
          +1
        </Button>
        <Button size="small" onClick={() => onPlay({ clip: -1, isRunning: false })}>
          At rest
        </Button>
        <Toggle isOn={playing.isLoop} onClick={() => onPlay({ isLoop: !playing.isLoop })}>
          Loop
        </Toggle>
        <Toggle
          isOn={playing.hasRootMotion}
          onClick={() => onPlay({ hasRootMotion: !playing.hasRootMotion })}
        >
          Root motion
        </Toggle>
        <TextField
          select
          variant="standard"
          size="small"
          value={playing.speed}
          onChange={({ target }) => onPlay({ speed: Number(target.value) })}
          slotProps={{ htmlInput: { 'aria-label': 'Speed' } }}
          sx={{ ml: 'auto', minWidth: 56 }}
        >
          {speeds.map((speed) => (
            <MenuItem key={speed} value={speed}>
              {`${speed} ×`}
            </MenuItem>
          ))}
        </TextField>
      </Box>
    </Box>
  );
}

/** While a clip plays its moment is shown so often: what the page has to do besides would wait for ever for each frame. */
const toldMs = 120;

function useMoment(onMoments: (tell: (seconds: number) => void) => () => void): number {
  const [seconds, setSeconds] = useState(0);
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | null = null;
    let latest = 0;
    const forget = onMoments((moment) => {
      latest = moment;
      waiting ??= setTimeout(() => {
        waiting = null;
        setSeconds(latest);
      }, toldMs);
    });
    return () => {
      forget();
      if (waiting !== null) clearTimeout(waiting);
    };
  }, [onMoments]);
  return seconds;
}
