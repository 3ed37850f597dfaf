import PauseIcon from '@mui/icons-material/Pause';
import PlayArrowIcon from '@mui/icons-material/PlayArrow';
import { Box, Button, FormControlLabel, Switch, Typography, useTheme } from '@mui/material';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import WaveSurfer from 'wavesurfer.js';
import type { SoundFacts } from '../../contract/facts.ts';
import { decodeEnvelope } from '../../core/kinds/sound/envelope.ts';
import { secondsText } from '../../core/figures.ts';

/** A sound with its waveform, drawn from the server's figures at once, and its loop, which can be heard. */
export default function SoundPlayer({
  source,
  facts,
  name,
}: {
  source: string;
  facts: SoundFacts;
  name: string;
}): ReactNode {
  const { palette } = useTheme();
  const holder = useRef<HTMLDivElement>(null);
  const player = useRef<WaveSurfer | null>(null);
  const [isPlaying, setPlaying] = useState(false);
  const [seconds, setSeconds] = useState(0);
  const [isLooping, setLooping] = useState(facts.loops.length > 0);
  const [failure, setFailure] = useState('');
  const loop = facts.loops[0];
  const loopStart = loop ? loop.startFrame / facts.sampleRate : 0;
  const loopEnd = loop ? (loop.endFrame + 1) / facts.sampleRate : 0;

  useEffect(() => {
    const container = holder.current;
    if (!container) return;
    const wave = WaveSurfer.create({
      container,
      url: source,
      peaks: [decodeEnvelope(facts.envelope)],
      duration: facts.seconds,
      height: 220,
      waveColor: palette.text.primary,
      progressColor: palette.primary.main,
      cursorColor: palette.primary.main,
    });
    wave.on('play', () => setPlaying(true));
    wave.on('pause', () => setPlaying(false));
    wave.on('timeupdate', setSeconds);
    wave.on('error', (error) => setFailure(error.message));
    player.current = wave;
    return () => {
      player.current = null;
      wave.destroy();
    };
  }, [source, facts, palette]);
  useEffect(() => {
    if (isLooping && loop && isPlaying && seconds >= loopEnd - 0.02) player.current?.setTime(loopStart);
  }, [isLooping, loop, isPlaying, seconds, loopStart, loopEnd]);

  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === ' ') void player.current?.playPause();
    else if (event.key === 'ArrowRight') player.current?.skip(1);
    else if (event.key === 'ArrowLeft') player.current?.skip(-1);
    else return;
    event.preventDefault();
  };
  return (
    <Box
      sx={{ flex: 1, display: 'flex', flexDirection: 'column', justifyContent: 'center', p: 3, minWidth: 0 }}
    >
      <Box
        sx={{ position: 'relative' }}
        role="group"
        tabIndex={0}
        aria-label={`Waveform of ${name}: space plays, arrows skip`}
        onKeyDown={onKeyDown}
      >
        <div ref={holder} />
        {loop && (
          <Box
            sx={{
              position: 'absolute',
              top: 0,
              bottom: 0,
              left: `${(100 * loopStart) / facts.seconds}%`,
              width: `${(100 * (loopEnd - loopStart)) / facts.seconds}%`,
              borderLeft: 2,
              borderRight: 2,
              borderColor: 'primary.main',
              pointerEvents: 'none',
            }}
          >
            <Typography variant="caption" sx={{ bgcolor: 'background.paper', px: 0.5 }}>
              loop
            </Typography>
          </Box>
        )}
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 2, mt: 2 }}>
        <Button
          variant="contained"
          startIcon={isPlaying ? <PauseIcon /> : <PlayArrowIcon />}
          onClick={() => void player.current?.playPause()}
        >
          {isPlaying ? 'Pause' : 'Play'}
        </Button>
        <Typography
          sx={{ fontVariantNumeric: 'tabular-nums' }}
        >{`${secondsText(seconds)} of ${secondsText(facts.seconds)}`}</Typography>
        {loop && (
          <FormControlLabel
            control={<Switch checked={isLooping} onChange={(_, on) => setLooping(on)} size="small" />}
            label={`Play the loop, ${secondsText(loopStart)} to ${secondsText(loopEnd)}`}
          />
        )}
      </Box>
      {failure && <Typography role="alert">{`It cannot be played here: ${failure}`}</Typography>}
    </Box>
  );
}
