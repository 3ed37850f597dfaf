import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { Asset } from '../../contract/assets.ts';
import type { Facts } from '../../contract/facts.ts';
import { bytesText, extentText, peakText, plural, secondsText } from '../../core/findings/evidence.ts';

export function FactsList({ asset }: { asset: Asset }): ReactNode {
  const rows: [string, ReactNode][] = [
    ['Kind', `${asset.kind}, ${asset.format}${asset.identifiedByExtension ? ' (by its extension)' : ''}`],
    [
      'Size',
      asset.size === null ? 'unknown' : `${bytesText(asset.size)} (${asset.size.toLocaleString('en')} bytes)`,
    ],
    ...(asset.facts ? factRows(asset.facts) : []),
    [
      'BLAKE3',
      asset.hash === null ? (
        'none'
      ) : (
        <span className="path">{`${asset.hash.slice(0, 32)} ${asset.hash.slice(32)}`}</span>
      ),
    ],
  ];
  return (
    <Box>
      <Typography variant="h2">Facts</Typography>
      <Box
        component="dl"
        sx={{ display: 'grid', gridTemplateColumns: '92px 1fr', gap: '2px 12px', m: 0, fontSize: '0.9rem' }}
      >
        {rows.map(([name, value]) => (
          <Box key={name} sx={{ display: 'contents' }}>
            <Box component="dt" sx={{ color: 'text.secondary' }}>
              {name}
            </Box>
            <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere' }}>
              {value}
            </Box>
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function factRows(facts: Facts): [string, ReactNode][] {
  const count = (value: number): string => value.toLocaleString('en');
  switch (facts.kind) {
    case 'picture':
      return [
        ['Pixels', `${facts.width} × ${facts.height}`],
        [
          'Channels',
          `${facts.channels} of ${facts.bitsPerChannel} bits${facts.hasAlpha ? ', with alpha' : ''}`,
        ],
        ['Colour', facts.colourSpace],
        ...(facts.frames > 1 ? [['Frames', count(facts.frames)] as [string, ReactNode]] : []),
      ];
    case 'model':
      return [
        ['Triangles', count(facts.triangles)],
        ['Vertices', count(facts.vertices)],
        [
          'Parts',
          `${count(facts.parts)}, ${plural(facts.materials, 'material')}, ${plural(facts.textures, 'texture')}`,
        ],
        ['Bones', count(facts.bones)],
        ...facts.clips.map(({ name, seconds }): [string, ReactNode] => [
          `Clip`,
          `${name}, ${secondsText(seconds)}`,
        ]),
        ['Extent', extentText(facts.boundsMetres)],
        ...(facts.missing.length > 0 ? [['Missing', facts.missing.join(', ')] as [string, ReactNode]] : []),
      ];
    case 'sound':
      return [
        ['Length', secondsText(facts.seconds)],
        [
          'Rate',
          `${count(facts.sampleRate)} Hz, ${facts.channels === 1 ? 'mono' : facts.channels === 2 ? 'stereo' : `${facts.channels} channels`}`,
        ],
        ['Peak', peakText(facts.peak)],
        ...facts.loops.map(({ startFrame, endFrame }): [string, ReactNode] => [
          'Loop',
          `${secondsText(startFrame / facts.sampleRate)} to ${secondsText((endFrame + 1) / facts.sampleRate)}`,
        ]),
      ];
    case 'map':
      return [
        ['Placements', count(facts.placements)],
        ['Models', count(facts.models.length)],
        [
          'Classes',
          Object.entries(facts.classes)
            .map(([name, number]) => `${name} ${number}`)
            .join(', '),
        ],
        ['Extent', extentText(facts.boundsMetres)],
      ];
    case 'text':
      return [
        ['Lines', count(facts.lines)],
        ...(facts.values === null ? [] : [['Values', count(facts.values)] as [string, ReactNode]]),
        ['Encoding', facts.encoding],
      ];
  }
}
