import { Box, Button, MenuItem, Slider, TextField, Typography } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import { plural, secondsText } from '../../../core/figures.ts';
import { TreeList } from '../../lists/tree-list.tsx';
import { nameOf } from '../../ui/path-text.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import type { ClipEntry, Playing } from '../engine/clip-player.ts';
import { groupNames, type ClipChoice, type ClipRow } from './clip-choices.ts';
import { Lacking } from './layers-list.tsx';
import type { useClips } from './use-clips.ts';

const speeds = [0.1, 0.25, 0.5, 1, 2, 4];

/** Clips that fit a model: of its file, of its family, and of the whole build; and what plays the chosen one. */
export function ClipsPanel({
  clips: { choices, rows, filter, setFilter, setClosed, chosen, current, playing, ...clips },
  isLooking,
  isCut,
}: {
  clips: ReturnType<typeof useClips>;
  /** Whether clips of other files are still looked for. */
  isLooking: boolean;
  /** Whether more fit than are listed. */
  isCut: boolean;
}): ReactNode {
  const counted = rows.reduce((sum, { choice }) => sum + (choice ? 1 : 0), 0);
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        {choices.length > 8 && (
          <TextFilter value={filter} onChange={setFilter} label="Words in names" name="Search the clips" />
        )}
        <Typography variant="body2" role="status">
          {`${isCut ? 'More than ' : ''}${plural(choices.length, 'clip')}${counted < choices.length && filter !== '' ? `, ${counted.toLocaleString('en')} listed` : ''}; [ and ] go from one to the next${isLooking ? '. Looking for those of other files …' : ''}`}
        </Typography>
      </Box>
      <TreeList
        label="Clips"
        rows={rows}
        chosen={chosen?.key ?? null}
        onChoose={(row) => {
          if (row.choice) clips.choose(row.choice.key === chosen?.key ? null : row.choice);
          else openGroup(row, row.isOpen !== true);
        }}
        onOpen={openGroup}
      >
        {(row) => (row.choice ? <ClipLine choice={row.choice} /> : <GroupLine row={row} />)}
      </TreeList>
      {typeof current === 'string' && (
        <Typography role="alert" variant="body2" sx={{ p: 1, overflowWrap: 'anywhere' }}>
          {`This clip cannot be played: ${current}.`}
        </Typography>
      )}
      {chosen && current === undefined && (
        <Typography role="status" variant="body2" sx={{ p: 1 }}>
          {`Loading ${chosen.name} …`}
        </Typography>
      )}
      {chosen && typeof current === 'object' && (
        <>
          <Transport
            key={chosen.key}
            {...{ entry: current.entry, playing }}
            onMoments={clips.onMoments}
            onPlay={clips.play}
            onRest={() => clips.choose(null)}
            onSeek={clips.seek}
          />
          {current.lacking.length > 0 && (
            <Box sx={{ px: 1, pb: 1 }}>
              <Lacking bones={current.lacking} />
            </Box>
          )}
        </>
      )}
    </>
  );

  function openGroup({ group }: ClipRow, isOpen: boolean): void {
    setClosed((before) => {
      const next = new Set(before);
      if (isOpen) next.delete(group);
      else next.add(group);
      return next;
    });
  }
}

function GroupLine({ row: { group, count } }: { row: ClipRow }): ReactNode {
  return (
    <Box component="span" sx={{ flex: 1, fontWeight: 700 }}>
      {`${groupNames[group]} (${count.toLocaleString('en')})`}
    </Box>
  );
}

function ClipLine({ choice: { path, name, seconds, moved, matched } }: { choice: ClipChoice }): ReactNode {
  const share = moved === 0 ? null : Math.floor((matched / moved) * 100);
  return (
    <>
      <Box
        component="span"
        className="path"
        title={
          path === ''
            ? name
            : `${name}, in ${path}; ${matched.toLocaleString('en')} of the ${plural(moved, 'bone')} that it moves are here`
        }
        sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
      >
        {name}
        {path !== '' && (
          <Box component="span" sx={{ color: 'text.secondary', ml: 1, fontSize: '0.72rem' }}>
            {nameOf(path)}
          </Box>
        )}
      </Box>
      {share !== null && share < 100 && (
        <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
          {`${share} % of bones`}
        </Box>
      )}
      <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
        {seconds === null ? '' : secondsText(seconds)}
      </Box>
    </>
  );
}

function Transport({
  entry: { name, seconds: length, rate },
  playing,
  onMoments,
  onPlay,
  onRest,
  onSeek,
}: {
  entry: ClipEntry;
  playing: Playing;
  onMoments: (tell: (seconds: number) => void) => () => void;
  onPlay: (change: Partial<Omit<Playing, 'clip'>>) => void;
  onRest: () => void;
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
        <Button size="small" onClick={onRest}>
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
