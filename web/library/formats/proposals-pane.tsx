import { Box, Button, Checkbox, Typography } from '@mui/material';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import type { FormatChange } from '../../../core/formats/guess/format-changes.ts';
import { tickedScore, type Proposal } from '../../../core/formats/guess/proposal.ts';
import { takenOver } from '../../../core/formats/guess/take-over.ts';
import { offsetText } from '../../../core/formats/language/sheet-error.ts';
import { plural } from '../../../core/figures.ts';
import { Loading } from '../../ui/states.tsx';
import type { Thread } from './use-workshop.ts';
import type { DrawnGuess, HeardGuess } from './workshop-worker.ts';

interface Props {
  thread: Thread;
  /** Where the files lie that the sheet is for. */
  addresses: readonly string[];
  /** The build before, and where the same files lie in it; null where there is none. */
  before: { build: string; addresses: readonly string[] } | null;
  text: string;
  /** The byte that is looked at. */
  at: number;
  onText: (text: string) => void;
  onLook: (place: { begin: number; end: number }) => void;
}

/** What the bytes of the files say of their format, to be taken over into the sheet. */
export function ProposalsPane({ thread, addresses, before, text, at, onText, onLook }: Props): ReactNode {
  const [proposals, setProposals] = useState<Proposal[] | null>(null);
  /** Those that are ticked, or not, otherwise than their score says. */
  const [toggled, setToggled] = useState<ReadonlySet<number>>(new Set());
  const key = addresses.join(' ');
  useEffect(() => {
    let isCurrent = true;
    setProposals(null);
    setToggled(new Set());
    void thread.proposals(key.split(' ')).then(
      (found) => isCurrent && setProposals(found),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
  }, [thread, key]);
  if (!proposals) return <Loading what="what the bytes say" />;
  const isTicked = (place: number): boolean =>
    toggled.has(place) !== (proposals[place]?.score ?? 0) >= tickedScore;
  const toggle = (place: number): void =>
    setToggled((set) => new Set(set.has(place) ? [...set].filter((one) => one !== place) : [...set, place]));
  const taken = proposals.filter(
    ({ field, kind }, place) => isTicked(place) && (field !== null || kind === 'order'),
  );
  return (
    <Box sx={{ p: 1.5, display: 'grid', gap: 1, alignContent: 'start' }}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap' }}>
        <Button
          variant="outlined"
          disabled={taken.length === 0}
          onClick={() => onText(takenOver(text, taken))}
        >
          Write the root from these
        </Button>
        <Typography variant="body2" color="text.secondary">
          {`From ${plural(addresses.length, 'file')}; the surest first.`}
        </Typography>
      </Box>
      {before && <Changes {...{ thread, addresses, before, onLook }} />}
      {proposals.length === 0 && <Typography color="text.secondary">Nothing was found in them.</Typography>}
      {proposals.map((proposal, place) => (
        <Line
          key={`${proposal.kind} ${proposal.at} ${place}`}
          proposal={proposal}
          isTicked={isTicked(place)}
          onTick={() => toggle(place)}
          onLook={onLook}
        />
      ))}
      <Guesses thread={thread} at={at} />
    </Box>
  );
}

/** How the format changed since the build before, as far as files that both have tell. */
function Changes({
  thread,
  addresses,
  before,
  onLook,
}: Pick<Props, 'thread' | 'addresses' | 'onLook'> & { before: NonNullable<Props['before']> }): ReactNode {
  const [changes, setChanges] = useState<FormatChange[] | null>(null);
  const key = JSON.stringify(addresses.map((address, place) => [before.addresses[place] ?? '', address]));
  useEffect(() => {
    let isCurrent = true;
    setChanges(null);
    void thread.changes(JSON.parse(key) as [string, string][]).then(
      (found) => isCurrent && setChanges(found),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
  }, [thread, key]);
  if (!changes || changes.length === 0) return null;
  return (
    <Box component="section" aria-label={`Since build ${before.build}`}>
      <Typography variant="h3">{`Since build ${before.build}`}</Typography>
      {changes.map(({ kind, at, bytes, says }) => (
        <Typography key={`${kind} ${at}`} variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          <Button
            className="path"
            sx={{ p: 0, minWidth: 0, mr: 1 }}
            onClick={() => onLook({ begin: at, end: at + (kind === 'came' ? bytes : 1) })}
          >
            {offsetText(at)}
          </Button>
          {says}
        </Typography>
      ))}
    </Box>
  );
}

function Line({
  proposal: { kind, at, bytes, says, score, field },
  isTicked,
  onTick,
  onLook,
}: {
  proposal: Proposal;
  isTicked: boolean;
  onTick: () => void;
  onLook: Props['onLook'];
}): ReactNode {
  const canBeTaken = field !== null || kind === 'order';
  const name = kind === 'order' ? 'byte order' : kind;
  return (
    <Box
      sx={{
        display: 'flex',
        gap: 0.5,
        alignItems: 'flex-start',
        borderTop: 1,
        borderColor: 'divider',
        pt: 0.5,
      }}
    >
      <Checkbox
        size="small"
        sx={{ p: 0.25 }}
        checked={canBeTaken && isTicked}
        disabled={!canBeTaken}
        onChange={onTick}
        slotProps={{ input: { 'aria-label': `Take ${name} at ${offsetText(at)}` } }}
      />
      <Box sx={{ minWidth: 0, flex: 1 }}>
        <Typography variant="body2">
          <b>{name}</b>
          {bytes > 0 && (
            <Button
              className="path"
              sx={{ p: 0, minWidth: 0, ml: 1 }}
              onClick={() => onLook({ begin: at, end: at + bytes })}
            >
              {offsetText(at)}
            </Button>
          )}
          <Box component="span" sx={{ float: 'right', color: 'text.secondary' }}>
            {score.toFixed(2)}
          </Box>
        </Typography>
        <Typography variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
          {says}
        </Typography>
      </Box>
    </Box>
  );
}

/** The bytes from the one that is looked at on, as pictures and as sounds, when somebody asks. */
function Guesses({ thread, at }: { thread: Thread; at: number }): ReactNode {
  const [seen, setSeen] = useState<{
    at: number;
    pictures: DrawnGuess[];
    sounds: (HeardGuess & { source: string })[];
  } | null>(null);
  useEffect(
    () => () => {
      for (const { source } of seen?.sounds ?? []) URL.revokeObjectURL(source);
    },
    [seen],
  );
  const ask = async (): Promise<void> => {
    const { pictures, sounds } = await thread.guesses(at);
    const heard = sounds.map((sound) => ({
      ...sound,
      source: URL.createObjectURL(new Blob([sound.wave], { type: 'audio/wav' })),
    }));
    setSeen({ at, pictures, sounds: heard });
  };
  return (
    <Box sx={{ borderTop: 1, borderColor: 'divider', pt: 1, display: 'grid', gap: 1 }}>
      <Button variant="outlined" onClick={() => void ask()} sx={{ justifySelf: 'start' }}>
        {`Bytes from ${offsetText(at)} as pixels and samples`}
      </Button>
      {seen && (
        <>
          <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
            {seen.pictures.map((drawn) => (
              <Drawn key={`${drawn.guess.width} ${drawn.guess.format}`} drawn={drawn} />
            ))}
          </Box>
          {seen.sounds.map(({ guess: { bits, channels, isSigned, isLittle, smoothness }, source }) => {
            const name = `${bits} bits${bits > 8 ? (isLittle ? ', little-endian' : ', big-endian') : isSigned ? ', signed' : ''}, ${plural(channels, 'channel')}`;
            return (
              <Box key={source}>
                <Typography variant="body2">{`${name} (${smoothness.toFixed(2)})`}</Typography>
                <Box
                  component="audio"
                  controls
                  src={source}
                  aria-label={name}
                  sx={{ width: '100%', height: 32 }}
                />
              </Box>
            );
          })}
        </>
      )}
    </Box>
  );
}

function Drawn({ drawn: { guess, width, height, rgba } }: { drawn: DrawnGuess }): ReactNode {
  const canvas = useRef<HTMLCanvasElement>(null);
  useEffect(() => {
    if (width > 0 && height > 0)
      canvas.current?.getContext('2d')?.putImageData(new ImageData(rgba, width, height), 0, 0);
  }, [width, height, rgba]);
  const name = `${guess.width} × ${guess.height}, ${guess.format}`;
  return (
    <Box sx={{ textAlign: 'center' }}>
      <canvas
        ref={canvas}
        width={Math.max(1, width)}
        height={Math.max(1, height)}
        role="img"
        aria-label={name}
      />
      <Typography variant="body2" color="text.secondary" sx={{ fontSize: '0.75rem' }}>
        {`${name} (${guess.smoothness.toFixed(2)})`}
      </Typography>
    </Box>
  );
}
