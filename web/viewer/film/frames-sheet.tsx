import { Box, ButtonBase, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { failureOf } from '../receive.ts';
import { momentText } from './frame-moments.ts';

/** Frames of a film side by side, each with its moment. */
export function FramesSheet({
  moments,
  width,
  height,
  addressOf,
  onOpen,
}: {
  /** Seconds from its beginning. */
  moments: readonly number[];
  /** Of the film, in pixels. */
  width: number;
  height: number;
  addressOf: (seconds: number) => string;
  /** Plays it from a moment on; null where it is not played. */
  onOpen: ((seconds: number) => void) | null;
}): ReactNode {
  return (
    <Box
      component="ol"
      aria-label="Frames"
      tabIndex={0}
      sx={{
        ...{ flex: 1, minHeight: 0, overflow: 'auto', m: 0, p: 2, listStyle: 'none', display: 'grid' },
        ...{ gridTemplateColumns: 'repeat(auto-fill, minmax(150px, 1fr))', gap: 1.5, alignContent: 'start' },
      }}
    >
      {moments.map((at) => (
        <Box component="li" key={at}>
          <Frame address={addressOf(at)} ratio={`${width} / ${height}`} at={at} onOpen={onOpen} />
        </Box>
      ))}
    </Box>
  );
}

function Frame({
  address,
  ratio,
  at,
  onOpen,
}: {
  address: string;
  ratio: string;
  at: number;
  onOpen: ((seconds: number) => void) | null;
}): ReactNode {
  const [failure, setFailure] = useState('');
  const text = momentText(at);
  const picture = failure ? (
    <Typography
      variant="body2"
      sx={{ aspectRatio: ratio, overflow: 'auto', border: 1, borderColor: 'divider', p: 0.5 }}
    >
      {failure}
    </Typography>
  ) : (
    <Box
      component="img"
      src={address}
      alt={`Frame at ${text}`}
      loading="lazy"
      onError={() =>
        void fetch(address)
          .then(failureOf)
          .then(setFailure, () => setFailure('It could not be fetched.'))
      }
      sx={{
        display: 'block',
        width: 1,
        aspectRatio: ratio,
        objectFit: 'contain',
        bgcolor: 'background.paper',
      }}
    />
  );
  return (
    <>
      {onOpen ? (
        <ButtonBase
          aria-label={`Play from ${text}`}
          onClick={() => onOpen(at)}
          sx={{ display: 'block', width: 1 }}
        >
          {picture}
        </ButtonBase>
      ) : (
        picture
      )}
      <Typography variant="body2" sx={{ fontVariantNumeric: 'tabular-nums' }}>
        {text}
      </Typography>
    </>
  );
}
