import { Box, FormControlLabel, Switch, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { hasLetterShortcuts, setLetterShortcuts } from '../ui/shortcuts.ts';

const groups: [string, [string, string][]][] = [
  [
    'Anywhere',
    [
      ['?', 'this page'],
      ['g then f, u, l, n, r, h, c, w', 'go to findings, news, library, names, links, haul, catalogue, work'],
      ['Tab', 'next control'],
      ['Enter or Space', 'use it'],
    ],
  ],
  [
    'Line of builds',
    [['Tab, Enter', 'pick a mark, or drop it: two marks are a span, one alone is that build']],
  ],
  [
    'Findings',
    [
      ['Arrows', 'next and previous finding'],
      ['Page Up, Page Down', 'four rows at once'],
      ['Home, End', 'first and last'],
      ['Enter', 'open the finding'],
      ['k, s, d', 'keep it, set it aside, it is done; once more takes the mark away'],
      ['o', 'open it again'],
      ['t', 'assign it to me'],
      ['u', 'take the last change back'],
      ['Space', 'select it, or not: marks then go to all that are selected'],
      ['Shift and arrows', 'select all on the way'],
      ['Escape', 'clear the selection'],
      ['c', 'compare before and after'],
      ['e', 'start an entry of the catalogue'],
      ['n', 'write its note'],
    ],
  ],
  [
    'Library',
    [
      ['Arrows', 'next and previous row'],
      ['Page Up, Page Down', 'twelve rows at once'],
      ['Home, End', 'first and last'],
      ['Enter', 'open the folder or the asset'],
      ['Space', 'select it, or not'],
      ['Shift and arrows', 'select all on the way'],
      ['h', 'add the selection to the haul'],
      ['p, Shift p', 'copy the paths, with and without extension'],
      ['Escape', 'clear the selection'],
    ],
  ],
  [
    'An asset',
    [
      ['Page Up, Page Down', 'the one before and the next of its folder'],
      ['[ and ]', 'clips of a model, sounds of a folder, one after the other'],
      ['Arrows, + and -, 0', 'turn or move what is looked at, nearer and farther, all of it'],
      ['w a s d q e', 'go through a scene'],
      ['Space', 'play and pause a sound'],
    ],
  ],
  [
    'Compare',
    [
      ['1 to 9', 'the ways of looking, from left to right'],
      ['b', 'the other one, while it is held or with every press'],
      ['+ and -', 'larger and smaller'],
      ['Space', 'play and pause'],
    ],
  ],
  [
    'Models and maps in 3D',
    [
      ['Arrows', 'turn'],
      ['+ and -', 'approach and leave'],
      ['0', 'show all of it'],
    ],
  ],
  ['Map from above', [['Arrows', 'go from one placement to the next']]],
  [
    'Sounds',
    [
      ['Space', 'play and pause'],
      ['Arrows', 'a second on or back'],
    ],
  ],
];

export function KeysView(): ReactNode {
  const [hasLetters, setHasLetters] = useState(hasLetterShortcuts);
  return (
    <Box tabIndex={0} role="region" aria-label="Keys" sx={{ p: 3, overflow: 'auto', flex: 1 }}>
      <Typography variant="h1" gutterBottom>
        Keyboard
      </Typography>
      <FormControlLabel
        control={
          <Switch
            size="small"
            checked={hasLetters}
            onChange={(_, isOn) => {
              setLetterShortcuts(isOn);
              setHasLetters(isOn);
            }}
          />
        }
        label="Single letters, digits and signs are shortcuts"
        sx={{ mb: 1.5 }}
      />
      <Box sx={{ columns: '2 380px', columnGap: 5 }}>
        {groups.map(([name, keys]) => (
          <Box key={name} sx={{ breakInside: 'avoid', mb: 2.5 }}>
            <Typography variant="h2">{name}</Typography>
            {keys.map(([key, what]) => (
              <Box
                key={key}
                sx={{ display: 'flex', gap: 2, borderBottom: 1, borderColor: 'divider', py: 0.4 }}
              >
                <Box component="kbd" className="path" sx={{ width: 150, flexShrink: 0 }}>
                  {key}
                </Box>
                <span>{what}</span>
              </Box>
            ))}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
