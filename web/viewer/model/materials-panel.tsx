import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useSayTexturesMutation } from './api.ts';
import { MaterialBlock } from './material-block.tsx';
import { MissingPictures } from './missing-pictures.tsx';
import type { PlaceOfModel } from './place-of-model.ts';
import type { useTextures } from './use-textures.ts';

/** So many materials are listed at once. */
const listedAtOnce = 60;
/** So few are open at first. */
const openAtFirst = 5;

/** The materials of a model: which pictures they wear by role, from where these come, and what else they may be. */
export function MaterialsPanel({
  textures,
  fileVariants,
  place,
  chosenPart,
  onPart,
  onLayout,
}: {
  textures: ReturnType<typeof useTextures>;
  fileVariants: readonly string[];
  place: PlaceOfModel | undefined;
  chosenPart: number | null;
  onPart: (part: number | null) => void;
  /** Shows how the parts of a material are laid out on their pictures. */
  onLayout: (material: string) => void;
}): ReactNode {
  const { states, sets, tried, palette, isByName, fileVariant, failures } = textures;
  const [filter, setFilter] = useState('');
  const [listed, setListed] = useState(listedAtOnce);
  const [say, { isLoading }] = useSayTexturesMutation();
  const { enqueueSnackbar } = useSnackbar();
  const words = filter.toLowerCase().split(/\s+/).filter(Boolean);
  const found = states.filter(({ entry }) => words.every((word) => entry.name.toLowerCase().includes(word)));
  const send = (body: Pick<Parameters<typeof say>[0], 'said' | 'drop'>): void => {
    if (!place) return;
    void say({ channel: place.channel, path: place.path, ...body }).then(({ error }) => {
      if (error) enqueueSnackbar(failureText(error), { variant: 'error' });
      else if (body.said.length > 0) textures.onForget();
    });
  };
  const count = tried.textures.length;
  return (
    <Box
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 1, display: 'grid', gap: 1, alignContent: 'start' }}
    >
      {states.length > 8 && (
        <TextFilter value={filter} onChange={setFilter} label="Words in names" name="Search the materials" />
      )}
      <Typography variant="body2" role="status">
        {`${plural(states.length, 'material')}${found.length < states.length ? `, ${found.length} listed` : ''}${textures.isLooking ? '. Looking for their pictures …' : ''}`}
      </Typography>
      {place && (
        <Box title="Where the file says nothing of a role, pictures count that are named like the material">
          <Toggle isOn={isByName} onClick={() => textures.onByName(!isByName)}>
            Pictures by name, too
          </Toggle>
        </Box>
      )}
      {fileVariants.length > 0 && (
        <Choice
          label="Set of materials in the file"
          value={fileVariant}
          options={fileVariants}
          none="As the file begins"
          onChoose={textures.onFileVariant}
        />
      )}
      {(sets?.palettes.length ?? 0) > 0 && (
        <Choice
          label="Palette"
          value={palette}
          options={sets?.palettes ?? []}
          none="The plain one"
          onChoose={textures.onPalette}
        />
      )}
      {textures.refusal !== '' && (
        <Typography role="alert" variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          {`Pictures could not be looked for: ${textures.refusal}`}
        </Typography>
      )}
      {failures.map((text) => (
        <Typography key={text} role="alert" variant="body2" sx={{ overflowWrap: 'anywhere' }}>
          {`${text}.`}
        </Typography>
      ))}
      {place && sets && sets.missing.length > 0 && (
        <MissingPictures missing={sets.missing} {...(place.onLink && { onLink: place.onLink })} />
      )}
      {found.slice(0, listed).map((state) => (
        <MaterialBlock
          key={state.entry.name}
          {...{ state, place, chosenPart, onPart, onLayout }}
          isOpenAtFirst={states.length <= openAtFirst}
          tint={tried.tints.find(({ material }) => material === state.entry.name) ?? null}
          onTry={textures.onTry}
          onTint={textures.onTint}
          onTakeBack={(role) => send({ said: [], drop: [{ material: state.entry.name, role }] })}
        />
      ))}
      {found.length > listed && (
        <Button onClick={() => setListed(listed + listedAtOnce)}>{`${found.length - listed} more`}</Button>
      )}
      {place && count > 0 && (
        <Box
          role="group"
          aria-label="What is tried"
          sx={{
            ...{ position: 'sticky', bottom: -8, display: 'flex', alignItems: 'center', gap: 1, py: 0.5 },
            ...{ bgcolor: 'background.paper', borderTop: 1, borderColor: 'divider' },
          }}
        >
          <Typography variant="body2" sx={{ flex: 1 }}>
            {`${plural(count, 'picture')} tried`}
          </Typography>
          <Button onClick={textures.onForget}>Take back</Button>
          <Button
            variant="contained"
            disabled={isLoading}
            onClick={() => send({ said: tried.textures, drop: [] })}
          >
            Keep for all builds
          </Button>
        </Box>
      )}
    </Box>
  );
}

function Choice({
  label,
  value,
  options,
  none,
  onChoose,
}: {
  label: string;
  value: string | null;
  options: readonly string[];
  none: string;
  onChoose: (value: string | null) => void;
}): ReactNode {
  return (
    <TextField
      select
      size="small"
      variant="standard"
      label={label}
      value={value !== null && options.includes(value) ? value : ''}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      onChange={({ target }) => onChoose(target.value === '' ? null : target.value)}
    >
      <MenuItem value="">{none}</MenuItem>
      {options.map((option) => (
        <MenuItem key={option} value={option}>
          {option}
        </MenuItem>
      ))}
    </TextField>
  );
}
