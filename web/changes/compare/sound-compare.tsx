import { Box, Button, Slider, Typography } from '@mui/material';
import { useEffect, useState, type KeyboardEvent, type ReactNode } from 'react';
import type { ComparedStates } from '../../../contract/assets.ts';
import { secondsText } from '../../../core/figures.ts';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { Empty, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace } from '../../ui/use-span.ts';
import { sourceOf } from '../../library/assets/source-of.ts';
import { Toolbar } from '../../viewer/toolbar.tsx';
import { Bands, Lane, Wave } from './sound-lanes.tsx';
import type { SpectrogramAnswer, SpectrogramRequest } from './spectrogram-worker.ts';
import { TwoPlayers } from './two-players.ts';
import { useWay } from './use-way.ts';
import { Ways } from './ways.tsx';

const ways = [
  ['waves', 'Waveforms'],
  ['bands', 'Spectrograms'],
  ['difference', 'Difference'],
] as const;

interface Heard {
  players: TwoPlayers;
  samples: readonly [Float32Array, Float32Array];
  rates: readonly [number, number];
}

/** Two sounds along one line of time, of which either is heard at any moment. */
export default function SoundCompare({ states }: { states: ComparedStates }): ReactNode {
  const { channel } = usePlace();
  const [heard, setHeard] = useState<Heard | null>(null);
  const [failure, setFailure] = useState('');
  const detail = states.comparison?.detail?.kind === 'sound' ? states.comparison.detail : null;
  const shift = detail?.shiftSeconds ?? 0;
  const hasNotes = [states.old, states.new].some(
    ({ facts }) => facts?.kind === 'sound' && facts.notes !== null,
  );
  useEffect(() => {
    if (hasNotes) return;
    let isStale = false;
    let players: TwoPlayers | null = null;
    const load = async (): Promise<void> => {
      const context = new AudioContext();
      const decode = async (source: string): Promise<AudioBuffer> =>
        context.decodeAudioData(await (await fetch(source)).arrayBuffer());
      const buffers = [
        await decode(sourceOf(channel.id, states.old)),
        await decode(sourceOf(channel.id, states.new)),
      ] as const;
      players = new TwoPlayers(context, buffers, shift);
      if (isStale) await players.close();
      else
        setHeard({
          players,
          samples: [mixed(buffers[0]), mixed(buffers[1])],
          rates: [buffers[0].sampleRate, buffers[1].sampleRate],
        });
    };
    load().catch((error: unknown) => setFailure(error instanceof Error ? error.message : String(error)));
    return () => {
      isStale = true;
      void players?.close();
    };
  }, [channel.id, states, shift, hasNotes]);
  if (hasNotes) return <Empty title="Notes, and nothing to hear">What differs in them stands beside.</Empty>;
  if (failure) return <Empty title="They cannot be played here">{failure}</Empty>;
  if (!heard) return <Loading what="both sounds" />;
  return <Both heard={heard} shift={shift} ranges={detail?.ranges ?? []} states={states} />;
}

function mixed(buffer: AudioBuffer): Float32Array {
  const mono = new Float32Array(buffer.length);
  for (let channel = 0; channel < buffer.numberOfChannels; channel++) {
    const samples = buffer.getChannelData(channel);
    for (let at = 0; at < mono.length; at++)
      mono[at] = (mono[at] ?? 0) + (samples[at] ?? 0) / buffer.numberOfChannels;
  }
  return mono;
}

function Both({
  heard: { players, samples, rates },
  shift,
  ranges,
  states,
}: {
  heard: Heard;
  shift: number;
  ranges: readonly { from: number; to: number }[];
  states: ComparedStates;
}): ReactNode {
  const [way, setWay] = useWay('way', ['waves', 'bands', 'difference']);
  const [which, setWhich] = useState<0 | 1>(1);
  const [isPlaying, setPlaying] = useState(false);
  const [position, setPosition] = useState(0);
  const bands = useSpectrograms(samples, rates, way !== 'waves');
  useEffect(() => players.select(which), [players, which]);
  useEffect(() => {
    if (!isPlaying) return;
    const timer = setInterval(() => {
      setPosition(players.position);
      if (players.position >= players.seconds) {
        players.pause();
        setPlaying(false);
      }
    }, 50);
    return () => clearInterval(timer);
  }, [isPlaying, players]);
  const toggle = (): void => {
    if (isPlaying) players.pause();
    else void players.play();
    setPlaying(!isPlaying);
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (!isForShortcut(event)) return;
    if (event.key === 'b') setWhich(which === 0 ? 1 : 0);
    else if (event.key === ' ' && !(event.target instanceof HTMLButtonElement)) toggle();
    else return;
    event.preventDefault();
  };
  // Where each begins on the common line of time.
  const begins = [Math.max(0, shift), Math.max(0, -shift)] as const;
  const lane = (at: 0 | 1): ReactNode => (
    <Lane
      key={at}
      label={at === 0 ? `before, ${states.old.build}` : `after, ${states.new.build}`}
      isHeard={which === at}
      position={position / players.seconds}
      onClick={() => setWhich(at)}
    >
      {way === 'waves' ? (
        <Wave
          samples={samples[at]}
          begin={begins[at]}
          length={samples[at].length / rates[at]}
          total={players.seconds}
          ranges={at === 1 ? ranges : ranges.map(({ from, to }) => ({ from: from - shift, to: to - shift }))}
        />
      ) : (
        <Bands
          spectrogram={at === 0 ? bands?.old : bands?.now}
          begin={begins[at]}
          length={samples[at].length / rates[at]}
          total={players.seconds}
        />
      )}
    </Lane>
  );
  return (
    <Box
      tabIndex={0}
      role="group"
      aria-label="Both sounds: space plays, b switches"
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Toolbar label="Ways of looking">
        <Ways ways={ways} chosen={way} onChoose={setWay} />
        <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5 }} />
        <Button variant="contained" onClick={toggle}>
          {isPlaying ? 'Pause' : 'Play'}
        </Button>
        <Toggle isOn={which === 0} onClick={() => setWhich(0)}>
          Hear before
        </Toggle>
        <Toggle isOn={which === 1} onClick={() => setWhich(1)}>
          Hear after
        </Toggle>
        <Slider
          size="small"
          aria-label="Moment"
          min={0}
          max={players.seconds}
          step={players.seconds / 500}
          value={position}
          onChange={(_, value) => {
            setPosition(value);
            void players.play(value).then(() => setPlaying(true));
          }}
          sx={{ flex: 1, mx: 2, alignSelf: 'center' }}
        />
        <Typography
          sx={{ alignSelf: 'center', pr: 1, fontVariantNumeric: 'tabular-nums' }}
        >{`${secondsText(position)} of ${secondsText(players.seconds)}`}</Typography>
      </Toolbar>
      <Box
        sx={{
          flex: 1,
          minHeight: 0,
          display: 'flex',
          flexDirection: 'column',
          p: 2,
          gap: 1.5,
          bgcolor: 'plate',
        }}
      >
        {way === 'difference' ? (
          <Lane
            label="what differs, once level and filter are taken out"
            isHeard={false}
            position={position / players.seconds}
          >
            <Bands
              spectrogram={bands?.difference}
              begin={begins[1]}
              length={samples[1].length / rates[1]}
              total={players.seconds}
            />
          </Lane>
        ) : (
          [lane(0), lane(1)]
        )}
        {way === 'waves' && ranges.length > 0 && (
          <Typography variant="body2">Stretches in colour are other.</Typography>
        )}
      </Box>
    </Box>
  );
}

function useSpectrograms(
  samples: Heard['samples'],
  rates: Heard['rates'],
  isWanted: boolean,
): SpectrogramAnswer | null {
  const [answer, setAnswer] = useState<SpectrogramAnswer | null>(null);
  useEffect(() => {
    if (!isWanted || answer) return;
    const worker = new Worker(new URL('./spectrogram-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<SpectrogramAnswer>) => setAnswer(data);
    worker.postMessage({ old: samples[0], now: samples[1], rates } satisfies SpectrogramRequest);
    return () => worker.terminate();
  }, [samples, rates, isWanted, answer]);
  return answer;
}
