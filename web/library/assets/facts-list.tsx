import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { Asset } from '../../../contract/assets.ts';
import type { Clip, Facts } from '../../../contract/facts.ts';
import { unitSymbol } from '../../../core/kinds/model/model-document.ts';
import { bytesText, extentText, peakText, plural, secondsText } from '../../../core/figures.ts';

export function FactsList({ asset }: { asset: Asset }): ReactNode {
  const rows: [string, ReactNode][] = [
    ['Kind', `${asset.kind}, ${formatText(asset)}`],
    [
      'Size',
      asset.size === null ? 'unknown' : `${bytesText(asset.size)} (${asset.size.toLocaleString('en')} bytes)`,
    ],
    ...(asset.facts ? [...sheetRow(asset.facts), ...factRows(asset.facts)] : []),
    ...some(asset.isUnread, 'Facts', 'being read …'),
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

function formatText({ format, identifiedByExtension }: Asset): string {
  if (format.startsWith('sheet-')) return 'of a format of the game’s own';
  return `${format}${identifiedByExtension ? ' (by its extension)' : ''}`;
}

function some(isSaid: boolean, name: string, value: ReactNode): [string, ReactNode][] {
  return isSaid ? [[name, value]] : [];
}

function clipRow({ name, seconds, rate, bones }: Clip): [string, ReactNode] {
  return [
    'Clip',
    `${name}, ${secondsText(seconds)}${rate === null ? '' : `, ${rate} keys a second`}${bones > 0 ? `, moves ${plural(bones, 'bone')}` : ''}`,
  ];
}

/** The sheet of the title’s team that it was read by. */
function sheetRow(facts: Facts): [string, ReactNode][] {
  const sheet = 'sheet' in facts ? facts.sheet : undefined;
  if (!sheet) return [];
  return [['Read by', `sheet “${sheet.name}”${sheet.version === '' ? '' : `, version ${sheet.version}`}`]];
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
        ['Colour', `${facts.colourSpace}${facts.encoding ? `, packed as ${facts.encoding}` : ''}`],
        ...some(facts.levels > 1, 'Mips', count(facts.levels)),
        ...some(facts.faces > 1, 'Cube map', `${facts.faces} sides`),
        ...some(facts.layers > 1, 'Layers', count(facts.layers)),
        ...some(facts.depth > 1, 'Slices', count(facts.depth)),
        ...some(facts.frames > 1, 'Frames', count(facts.frames)),
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
        ...facts.clips.map(clipRow),
        ...some(facts.uvSets > 1, 'UV sets', count(facts.uvSets)),
        ...some(facts.hasColours, 'Colours', 'at its vertices'),
        ...some(facts.morphTargets > 0, 'Morphs', count(facts.morphTargets)),
        ...some(facts.variants.length > 0, 'Variants', facts.variants.join(', ')),
        ...some(facts.instances > 0, 'Instances', count(facts.instances)),
        ['Extent', extentText(facts.boundsMetres, unitSymbol(facts.units))],
        ['Units', facts.units],
        ...some(facts.missing.length > 0, 'Missing', facts.missing.join(', ')),
      ];
    case 'clip':
      return [['Bones', count(facts.bones)], ...facts.clips.map(clipRow), ['Units', facts.units]];
    case 'font':
      return [
        ['Name', facts.fullName],
        ['Glyphs', `${count(facts.glyphs)}, for ${plural(facts.characters, 'character')}`],
        ['Coverage', facts.coverage.join(', ')],
        ...some(facts.axes.length > 0, 'Axes', facts.axes.join(', ')),
      ];
    case 'film':
      return [
        ['Length', secondsText(facts.seconds)],
        ['Container', facts.container],
        ...facts.tracks.map((track): [string, ReactNode] => [
          track.sort === 'video' ? 'Picture' : track.sort === 'audio' ? 'Sound' : 'Titles',
          [
            track.codec,
            track.width === null ? '' : `${track.width} × ${track.height ?? 0}`,
            track.framesPerSecond === null
              ? ''
              : `${Number(track.framesPerSecond.toFixed(2))} frames a second`,
            track.sampleRate === null ? '' : `${count(track.sampleRate)} Hz`,
            track.language,
          ]
            .filter((part) => part !== '')
            .join(', '),
        ]),
      ];
    case 'sound':
      if (facts.notes !== null)
        return [
          ['Length', secondsText(facts.seconds)],
          ['Events', `${plural(facts.notes, 'note')} on ${plural(facts.channels, 'track')}`],
          ['Instruments', facts.instruments.join(', ')],
        ];
      return [
        ['Length', secondsText(facts.seconds)],
        ...some(
          facts.coding !== '',
          'Coding',
          `${facts.coding}${facts.bits === null ? '' : ` of ${facts.bits} bits`}`,
        ),
        [
          'Rate',
          `${count(facts.sampleRate)} Hz, ${facts.channels === 1 ? 'mono' : facts.channels === 2 ? 'stereo' : `${facts.channels} channels`}`,
        ],
        ['Peak', peakText(facts.peak)],
        ...some(
          facts.cues.length > 0,
          'Cues',
          facts.cues
            .map(({ frame, label }) => `${label} ${secondsText(frame / facts.sampleRate)}`.trim())
            .join(', '),
        ),
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
        ...(facts.tiles === null
          ? [['Extent', extentText(facts.boundsMetres)] as [string, ReactNode]]
          : ([
              [
                'Tiles',
                `${count(facts.tiles.width)} × ${count(facts.tiles.height)}, ${count(facts.tiles.set)} set`,
              ],
              [
                'Tile size',
                `${facts.tiles.tileWidth} × ${facts.tiles.tileHeight} pixels, ${facts.tiles.orientation}`,
              ],
              ['Layers', count(facts.tiles.layers)],
            ] as [string, ReactNode][])),
        ...some(facts.recipe !== '', 'Recipe', facts.recipe),
      ];
    case 'text':
      return [
        ['Lines', count(facts.lines)],
        ...(facts.values === null ? [] : [['Values', count(facts.values)] as [string, ReactNode]]),
        ['Encoding', facts.encoding],
        ...some(facts.language !== null, 'Language', facts.language),
      ];
  }
}
