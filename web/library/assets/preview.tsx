import { Box } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { Facts } from '../../../contract/facts.ts';
import type { Kind } from '../../../contract/kinds.ts';
import { useEnvelopeQuery } from './envelope-api.ts';
import { Envelope } from '../../viewer/envelope.tsx';

interface Props {
  hash: string | null;
  format: string;
  facts: Facts | null;
  hasPreview: boolean;
  kind: Kind;
  isSmall?: boolean;
}

function SoundPreview({ hash, format, height }: { hash: string; format: string; height: number }): ReactNode {
  const { data } = useEnvelopeQuery({ hash, format });
  return data && data.length > 0 ? <Envelope envelope={data} height={height} /> : null;
}

/** What shows a content at a glance: its picture, its waveform, its first lines, or its kind in a word. */
export function Preview({ hash, format, facts, hasPreview, kind, isSmall = false }: Props): ReactNode {
  const [isBroken, setBroken] = useState<string | null>(null);
  if (hash !== null && hasPreview && isBroken !== hash) {
    return (
      <img
        className="small-picture"
        src={`/api/preview/${hash}?format=${format}`}
        alt=""
        loading="lazy"
        decoding="async"
        draggable={false}
        onError={() => setBroken(hash)}
      />
    );
  }
  if (kind === 'sound' && hash !== null)
    return <SoundPreview hash={hash} format={format} height={isSmall ? 26 : 84} />;
  if (facts?.kind === 'text' && !isSmall) {
    return (
      <Box
        component="pre"
        className="path"
        sx={{
          m: 0,
          p: 1,
          fontSize: '0.62rem !important',
          lineHeight: 1.35,
          width: '100%',
          height: '100%',
          overflow: 'hidden',
          textAlign: 'left',
        }}
      >
        {facts.excerpt}
      </Box>
    );
  }
  return (
    <Box sx={{ color: 'text.secondary', fontStyle: 'italic', fontSize: isSmall ? '0.6rem' : '0.85rem' }}>
      {kind}
    </Box>
  );
}
