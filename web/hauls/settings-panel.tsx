import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { writtenFormats, type HaulSettings } from '../../contract/hauls.ts';
import { failureText } from '../ui/api.ts';
import { useDropProfileMutation, useKeepProfileMutation, useProfilesQuery } from './api.ts';

type Group = 'pictures' | 'models' | 'clips' | 'sounds' | 'maps' | 'texts' | 'along';

interface Choice {
  group: Group;
  name: string;
  label: string;
  options: readonly (readonly [value: string, label: string])[];
  /** Whether it says anything with these settings. */
  isOf?: (settings: HaulSettings) => boolean;
}

const formatNames: Readonly<Record<string, string>> = {
  'as it lay': 'As it lay',
  jpeg: 'JPEG',
  exr: 'OpenEXR',
  webp: 'WebP',
  gltf: 'glTF with files',
  obj: 'OBJ with MTL',
  ogg: 'Ogg Vorbis',
  opus: 'Opus',
};

function formatsOf(kind: keyof typeof writtenFormats): Choice['options'] {
  return writtenFormats[kind].map((format) => [format, formatNames[format] ?? format.toUpperCase()]);
}

const isWritten = (as: string): boolean => as !== 'as it lay';

const groups: readonly { title: string; choices: readonly Choice[] }[] = [
  {
    title: 'Models',
    choices: [
      { group: 'models', name: 'as', label: 'Models as', options: formatsOf('model') },
      {
        ...{ group: 'models', name: 'unit', label: 'Unit', isOf: ({ models }) => isWritten(models.as) },
        options: [
          ['metres', 'Metres'],
          ['centimetres', 'Centimetres'],
          ['millimetres', 'Millimetres'],
        ],
      },
      {
        ...{ group: 'models', name: 'up', label: 'Up' },
        isOf: ({ models }) => isWritten(models.as) && models.as !== '3mf',
        options: [
          ['Y', 'Y'],
          ['Z', 'Z'],
        ],
      },
      {
        ...{ group: 'models', name: 'placed', label: 'Unit and axis' },
        isOf: ({ models }) =>
          (models.as === 'glb' || models.as === 'gltf') && (models.unit !== 'metres' || models.up !== 'Y'),
        options: [
          ['in the data', 'In the data'],
          ['in a root node', 'In a root node'],
        ],
      },
      {
        ...{ group: 'models', name: 'textures', label: 'Pictures of models' },
        isOf: ({ models }) => ['glb', 'gltf', 'obj'].includes(models.as),
        options: [
          ['by role', 'Found by role'],
          ['as the file says', 'As the file says'],
          ['none', 'None'],
        ],
      },
      {
        ...{
          group: 'models',
          name: 'helpers',
          label: 'Helper shapes',
          isOf: ({ models }) => isWritten(models.as),
        },
        options: [
          ['left out', 'Left out'],
          ['kept', 'Kept'],
        ],
      },
      { group: 'clips', name: 'as', label: 'Clips as', options: formatsOf('clip') },
    ],
  },
  {
    title: 'Pictures',
    choices: [
      { group: 'pictures', name: 'as', label: 'Pictures as', options: formatsOf('picture') },
      {
        ...{
          group: 'pictures',
          name: 'levels',
          label: 'Mip levels',
          isOf: ({ pictures }) => isWritten(pictures.as),
        },
        options: [
          ['finest', 'The finest'],
          ['all', 'All'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'crop', label: 'Borders' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['none', 'Kept'],
          ['alpha', 'Cut where clear'],
          ['colour', 'Cut by colour'],
        ],
      },
      {
        ...{ group: 'pictures', name: 'scale', label: 'Scaled' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: ['0.5', '1', '1.5', '1.75', '2', '3', '4'].map((factor) => [
          factor,
          factor === '1' ? 'Own size' : `× ${factor}`,
        ]),
      },
      {
        ...{ group: 'pictures', name: 'green', label: 'Green of normal maps' },
        isOf: ({ pictures }) => isWritten(pictures.as),
        options: [
          ['kept', 'Kept'],
          ['turned', 'Turned round'],
        ],
      },
    ],
  },
  {
    title: 'Sounds, maps, texts',
    choices: [
      { group: 'sounds', name: 'as', label: 'Sounds as', options: formatsOf('sound') },
      {
        ...{ group: 'sounds', name: 'bits', label: 'Bits to a sample' },
        isOf: ({ sounds }) => sounds.as === 'wav' || sounds.as === 'flac',
        options: [
          ['as decoded', 'As decoded'],
          ['16', '16'],
          ['24', '24'],
        ],
      },
      { group: 'maps', name: 'as', label: 'Maps as', options: formatsOf('map') },
      { group: 'texts', name: 'as', label: 'Texts as', options: formatsOf('text') },
    ],
  },
  {
    title: 'What comes along',
    choices: [
      {
        ...{ group: 'along', name: 'needs', label: 'What they need' },
        options: [
          ['true', 'Comes along'],
          ['false', 'Stays'],
        ],
      },
      {
        ...{ group: 'along', name: 'family', label: 'Their families' },
        options: [
          ['true', 'Come along'],
          ['false', 'Stay'],
        ],
      },
      {
        ...{ group: 'along', name: 'levels', label: 'Levels of detail' },
        options: [
          ['finest', 'The finest'],
          ['all', 'All'],
        ],
      },
    ],
  },
];

/** With what the command line has set beside. */
function optionsOf({ group, name, options }: Choice, settings: HaulSettings): Choice['options'] {
  const value = String((settings[group] as Record<string, unknown>)[name]);
  return options.some(([known]) => known === value) ? options : [...options, [value, value]];
}

/** How a haul is written: each change holds at once. */
export function SettingsPanel({
  settings,
  onChange,
}: {
  settings: HaulSettings;
  onChange: (settings: HaulSettings) => void;
}): ReactNode {
  const set = ({ group, name }: Choice, text: string): void => {
    const isNumber = typeof (settings[group] as Record<string, unknown>)[name] === 'number';
    const value = text === 'true' ? true : text === 'false' ? false : isNumber ? Number(text) : text;
    onChange({ ...settings, [group]: { ...settings[group], [name]: value } });
  };
  return (
    <Box component="section" aria-label="How it is written" sx={{ p: 1.5 }}>
      <Profiles settings={settings} onChange={onChange} />
      {groups.map(({ title, choices }) => (
        <Box key={title} component="fieldset" sx={{ border: 0, p: 0, m: 0, mt: 1.5 }}>
          <Typography component="legend" variant="h2" sx={{ fontSize: '0.95rem', p: 0, mb: 0.75 }}>
            {title}
          </Typography>
          <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', gap: 1 }}>
            {choices
              .filter(({ isOf }) => isOf?.(settings) ?? true)
              .map((choice) => (
                <TextField
                  key={`${choice.group} ${choice.name}`}
                  select
                  size="small"
                  label={choice.label}
                  value={String((settings[choice.group] as Record<string, unknown>)[choice.name])}
                  onChange={({ target }) => set(choice, target.value)}
                >
                  {optionsOf(choice, settings).map(([value, label]) => (
                    <MenuItem key={value} value={value} dense>
                      {label}
                    </MenuItem>
                  ))}
                </TextField>
              ))}
          </Box>
        </Box>
      ))}
      <TextField
        select
        size="small"
        fullWidth
        label="Folders"
        sx={{ mt: 1.5 }}
        value={settings.folders}
        onChange={({ target }) => onChange({ ...settings, folders: target.value as HaulSettings['folders'] })}
      >
        <MenuItem dense value="as in the build">
          As in the build
        </MenuItem>
        <MenuItem dense value="one folder">
          One folder for all
        </MenuItem>
        <MenuItem dense value="by family">
          A folder for each family
        </MenuItem>
      </TextField>
    </Box>
  );
}

function Profiles({
  settings,
  onChange,
}: {
  settings: HaulSettings;
  onChange: (settings: HaulSettings) => void;
}): ReactNode {
  const { data: profiles = [] } = useProfilesQuery(undefined);
  const [keep, kept] = useKeepProfileMutation();
  const [drop] = useDropProfileMutation();
  const [name, setName] = useState<string | null>(null);
  const chosen = profiles.find((profile) => JSON.stringify(profile.settings) === JSON.stringify(settings));
  return (
    <>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
        <TextField
          select
          size="small"
          fullWidth
          label="Profile"
          value={chosen?.name ?? ''}
          onChange={({ target }) => {
            const profile = profiles.find((one) => one.name === target.value);
            if (profile) onChange(profile.settings);
          }}
          slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        >
          {!chosen && (
            <MenuItem value="" disabled dense>
              Your own settings
            </MenuItem>
          )}
          {profiles.map((profile) => (
            <MenuItem key={profile.name} value={profile.name} dense>
              {profile.name}
            </MenuItem>
          ))}
        </TextField>
        {chosen && !chosen.isShipped && <Button onClick={() => void drop(chosen.name)}>Forget</Button>}
        {!chosen && name === null && <Button onClick={() => setName('')}>Keep …</Button>}
      </Box>
      {name !== null && !chosen && (
        <Box
          component="form"
          sx={{ display: 'flex', gap: 1, mt: 1 }}
          onSubmit={(event) => {
            event.preventDefault();
            void keep({ name, settings })
              .unwrap()
              .then(() => setName(null))
              .catch(() => undefined);
          }}
        >
          <TextField
            size="small"
            fullWidth
            autoFocus
            label="Name of the profile"
            value={name}
            onChange={({ target }) => setName(target.value)}
            error={kept.isError}
            helperText={failureText(kept.error)}
          />
          <Button type="submit" disabled={name.trim() === ''}>
            Keep
          </Button>
        </Box>
      )}
    </>
  );
}
