import PauseIcon from '@mui/icons-material/Pause';
import PlayArrowIcon from '@mui/icons-material/PlayArrow';
import { Box, Button, Typography } from '@mui/material';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import type { SoundFacts } from '../../../contract/facts.ts';
import { secondsText } from '../../../core/figures.ts';
import { decodeEnvelope } from '../../../core/kinds/sound/envelope.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { drawExtremes, drawLoudness, drawTones, Lane, type Mark } from './sound-lanes.tsx';
import { useSound } from './use-sound.ts';

const frameSteps = 1;

/** A sound: its waveform at once, its tones and its loudness, loops that are heard to the sample, channels alone. */
export default function SoundPlayer({
  wave,
  source,
  facts,
  name,
  isInAddress = false,
  children,
}: {
  /** All its samples as a WAV file. */
  wave: string;
  /** As browsers play it, where it is too long to be held. */
  source: string;
  facts: SoundFacts;
  name: string;
  /** Whether the page’s address says how it is heard. */
  isInAddress?: boolean;
  /** What stands beside it. */
  children?: ReactNode;
}): ReactNode {
  const [words, say] = useViewerWords(isInAddress);
  const sound = useSound(wave, facts);
  const engine = sound.state === 'ready' ? sound.engine : null;
  const lanes = sound.state === 'ready' ? sound.lanes : null;
  const [isPlaying, setPlaying] = useState(false);
  const [position, setPosition] = useState(0);
  const chosenLoop = words.get('loop') === 'none' ? -1 : Number(words.get('loop') ?? 0);
  const loop = facts.loops[chosenLoop] ?? null;
  const asked = words.get('channel');
  const channel = asked !== null && Number(asked) < facts.channels ? Number(asked) : null;
  const { seconds, sampleRate, channels } = facts;

  useEffect(() => engine?.hear({ loop, channel }), [engine, loop, channel]);
  useEffect(() => {
    if (!engine) return;
    engine.onEnd = () => {
      setPlaying(false);
      setPosition(engine.position);
    };
    return () => {
      engine.onEnd = () => undefined;
    };
  }, [engine]);
  useEffect(() => {
    if (!engine || !isPlaying) return;
    const timer = setInterval(() => setPosition(engine.position), 50);
    return () => clearInterval(timer);
  }, [engine, isPlaying]);
  const play = useCallback(
    (isOn: boolean): void => {
      if (!engine) return;
      if (isOn) void engine.play().then(() => setPlaying(true));
      else engine.pause();
      if (!isOn) setPlaying(false);
      setPosition(engine.position);
      // Whoever goes through a list hears one after the other.
      say({ play: isOn ? '1' : undefined });
    },
    [engine, say],
  );
  const isFollowing = words.get('play') === '1';
  const begun = useRef(false);
  useEffect(() => {
    if (!engine || !isFollowing || begun.current) return;
    begun.current = true;
    // A page that nobody has touched may not be heard: then it waits for the button.
    if (navigator.userActivation.hasBeenActive) void engine.play(0).then(() => setPlaying(true));
  }, [engine, isFollowing]);
  const seek = useCallback(
    (at: number): void => {
      engine?.seek(at);
      setPosition(Math.max(0, Math.min(at, seconds)));
    },
    [engine, seconds],
  );
  const marks = useMemo(
    (): Mark[] => [
      ...facts.loops.map(({ startFrame, endFrame }, at) => ({
        label: facts.loops.length > 1 ? `loop ${at + 1}` : 'loop',
        from: startFrame / sampleRate,
        to: (endFrame + 1) / sampleRate,
      })),
      ...facts.cues.map(({ frame, label }, at) => ({
        label: label === '' ? `mark ${at + 1}` : label,
        from: frame / sampleRate,
        to: frame / sampleRate,
      })),
    ],
    [facts, sampleRate],
  );
  const waves = useMemo(() => {
    if (!lanes) {
      const envelope = decodeEnvelope(facts.envelope);
      return [(...canvas: Canvas) => drawExtremes(envelope, ...canvas)];
    }
    return lanes.extremes.map(
      (extremes) =>
        (...canvas: Canvas) =>
          drawExtremes(extremes, ...canvas),
    );
  }, [lanes, facts.envelope]);
  const tones = useMemo(() => lanes && ((...canvas: Canvas) => drawTones(lanes.tones, ...canvas)), [lanes]);
  const loudness = useMemo(
    () => lanes && ((...canvas: Canvas) => drawLoudness(lanes.momentary, ...canvas)),
    [lanes],
  );
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const actions: Partial<Record<string, () => void>> = {
      ' ': () => play(!isPlaying),
      ArrowRight: () => seek(position + 1),
      ArrowLeft: () => seek(position - 1),
      '.': () => seek(position + frameSteps / sampleRate),
      ',': () => seek(position - frameSteps / sampleRate),
      Home: () => seek(0),
      End: () => seek(seconds),
    };
    const action = actions[event.key];
    if (!action) return;
    action();
    event.preventDefault();
  };
  const waveHeight = Math.max(64, Math.min(180, 240 / Math.max(1, waves.length)));
  return (
    <Box sx={{ flex: 1, display: 'flex', minWidth: 0, flexDirection: { xs: 'column', sm: 'row' } }}>
      <Box
        sx={{
          flex: 1,
          minWidth: 0,
          display: 'flex',
          flexDirection: 'column',
          p: 2,
          gap: 1,
          overflow: 'auto',
        }}
      >
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, flexWrap: 'wrap' }}>
          <Button
            variant="contained"
            disabled={!engine}
            startIcon={isPlaying ? <PauseIcon /> : <PlayArrowIcon />}
            onClick={() => play(!isPlaying)}
          >
            {isPlaying ? 'Pause' : 'Play'}
          </Button>
          <Typography sx={{ fontVariantNumeric: 'tabular-nums' }}>
            {`${secondsText(position)} of ${secondsText(seconds)}`}
          </Typography>
          <Typography variant="body2" color="text.secondary" sx={{ fontVariantNumeric: 'tabular-nums' }}>
            {`frame ${Math.min(Math.round(position * sampleRate), Math.round(seconds * sampleRate)).toLocaleString('en')}`}
          </Typography>
          {facts.loops.map(({ startFrame, endFrame }, at) => (
            <Toggle
              key={`${startFrame} ${endFrame}`}
              isOn={chosenLoop === at}
              onClick={() => say({ loop: chosenLoop === at ? 'none' : at === 0 ? undefined : String(at) })}
            >
              {`Play the loop, ${secondsText(startFrame / sampleRate)} to ${secondsText((endFrame + 1) / sampleRate)}`}
            </Toggle>
          ))}
          {channels > 1 &&
            Array.from({ length: channels }, (_, at) => (
              <Toggle
                key={at}
                isOn={channel === at}
                onClick={() => say({ channel: channel === at ? undefined : String(at) })}
              >
                {`${channelName(at, channels)} alone`}
              </Toggle>
            ))}
        </Box>
        <Box
          role="group"
          tabIndex={0}
          aria-label={`Waveform of ${name}: space plays, arrows skip a second, comma and period a frame`}
          onKeyDown={onKeyDown}
          sx={{ display: 'grid', gap: 0.5 }}
        >
          {waves.map((draw, at) => (
            <Lane
              key={at}
              label={waves.length > 1 ? channelName(at, waves.length) : 'Waveform'}
              {...{ seconds, position, draw, marks }}
              height={waveHeight}
              onSeek={seek}
            />
          ))}
          {tones && (
            <Lane
              label={`Tones, 40 Hz to ${Math.round(sampleRate / 200) / 10} kHz`}
              {...{ seconds, position, draw: tones }}
              height={130}
              onSeek={seek}
            />
          )}
          {loudness && lanes && (
            <Lane
              label={`Loudness, −60 to 0 LUFS: ${lanes.integrated === null ? 'silence' : `${minus(lanes.integrated)} LUFS in all`}${lanes.peak === null ? '' : `, true peak ${minus(lanes.peak)} dBTP`}`}
              {...{ seconds, position, draw: loudness }}
              height={56}
              onSeek={seek}
            />
          )}
        </Box>
        {sound.state === 'loading' && (
          <Typography role="status" variant="body2" color="text.secondary">
            {`Loading ${name} …`}
          </Typography>
        )}
        {sound.state === 'failed' && (
          <>
            <Typography role="alert">{`It cannot be taken apart here: ${sound.reason}.`}</Typography>
            <audio controls src={source} aria-label={name} />
          </>
        )}
      </Box>
      {children}
    </Box>
  );
}

type Canvas = [context: CanvasRenderingContext2D, width: number, height: number, ink: string];

function minus(value: number): string {
  return value.toFixed(1).replace('-', '−');
}

function channelName(channel: number, channels: number): string {
  return channels === 2 ? (channel === 0 ? 'Left' : 'Right') : `Channel ${channel + 1}`;
}
