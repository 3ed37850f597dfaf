import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { Channel, SaidTexture, TextureRole } from '../../../contract/texture-sets.ts';
import { plural } from '../../../core/figures.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { AssetChoice } from '../asset-choice.tsx';
import type { MaterialState, RoleState, Source, Tint } from './material-roles.ts';
import type { PlaceOfModel } from './place-of-model.ts';

const sourceTexts: Readonly<Record<Source, string>> = {
  ...{ tried: 'tried', said: 'said by the team', palette: 'of the palette', file: 'the file says so' },
  ...{ name: 'by its name', none: 'not worn' },
};
const noTexture = 'none';
const asBefore = 'before';
const another = 'another';

/** One material with the pictures that it wears. */
export function MaterialBlock({
  state: { entry, roles },
  place,
  tint,
  isOpenAtFirst,
  chosenPart,
  onPart,
  onLayout,
  onTry,
  onTint,
  onTakeBack,
}: {
  state: MaterialState;
  place: PlaceOfModel | undefined;
  tint: Tint | null;
  isOpenAtFirst: boolean;
  chosenPart: number | null;
  onPart: (part: number | null) => void;
  onLayout: (material: string) => void;
  onTry: (slot: Omit<SaidTexture, 'texture'>, texture: string | null | undefined) => void;
  onTint: (material: string, tint: Tint | null) => void;
  onTakeBack: (role: TextureRole) => void;
}): ReactNode {
  const [isOpened, setOpened] = useState<boolean | null>(null);
  const isChosen = chosenPart !== null && entry.parts.includes(chosenPart);
  const isOpen = isOpened ?? (isOpenAtFirst || isChosen);
  const name = entry.name === '' ? 'without a name' : entry.name;
  const [first] = entry.parts;
  return (
    <Box
      component="section"
      aria-label={`Material ${name}`}
      sx={{ borderTop: 2, borderColor: isChosen ? 'primary.main' : 'divider', pt: 0.5 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center' }}>
        <Button
          aria-expanded={isOpen}
          onClick={() => setOpened(!isOpen)}
          sx={{
            ...{ flex: 1, minWidth: 0, justifyContent: 'flex-start', textAlign: 'left' },
            overflowWrap: 'anywhere',
          }}
        >
          {`${isOpen ? '▾' : '▸'} ${name}`}
        </Button>
        <Button
          size="small"
          onClick={() => onPart(isChosen ? null : (first ?? null))}
          aria-label={`${plural(entry.parts.length, 'part')} in ${name}: mark one`}
        >
          {plural(entry.parts.length, 'part')}
        </Button>
        <Button size="small" onClick={() => onLayout(entry.name)} aria-label={`UV layout of ${name}`}>
          UV
        </Button>
      </Box>
      {isOpen && roles.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          It wears no picture, and none is named like it.
        </Typography>
      )}
      {isOpen &&
        roles.map((role) => (
          <RoleLine
            key={role.role}
            {...{ role, place }}
            onTry={(texture) => onTry({ material: entry.name, role: role.role }, texture)}
            onTakeBack={() => onTakeBack(role.role)}
          >
            {role.role === 'tint mask' && role.path !== null && (
              <TintFields
                tint={tint}
                onTint={(next) => onTint(entry.name, next && { ...next, material: entry.name })}
              />
            )}
          </RoleLine>
        ))}
      {isOpen && place && roles.length === 0 && (
        <AssetChoice
          channel={place.channel}
          build={place.build}
          kind="picture"
          label="Try a picture as base colour"
          onChoose={(path) => onTry({ material: entry.name, role: 'base colour' }, path)}
        />
      )}
    </Box>
  );
}

function RoleLine({
  role: { role, source, path, own, choices, choice, colourSpace, channels, isGone },
  place,
  onTry,
  onTakeBack,
  children,
}: {
  role: RoleState;
  place: PlaceOfModel | undefined;
  onTry: (texture: string | null | undefined) => void;
  onTakeBack: () => void;
  children: ReactNode;
}): ReactNode {
  const [isFinding, setFinding] = useState(false);
  const shown =
    choice?.hash && choice.hasPreview ? `/api/preview/${choice.hash}?format=${choice.format}` : null;
  const others = path !== null && !choice ? [path] : [];
  const value = path ?? (source === 'file' ? asBefore : noTexture);
  const packed = channels.map(({ role: held, channel }) => `${channel.toUpperCase()} ${held}`).join(', ');
  const said = [
    sourceTexts[source],
    colourSpace === 'linear' ? 'linear data' : 'colour',
    choice && source === 'name' ? choice.why : '',
    packed,
    isGone ? 'the file that the team said is not in this build' : '',
  ];
  return (
    <Box
      role="group"
      aria-label={role}
      sx={{ display: 'grid', gridTemplateColumns: '36px 1fr', columnGap: 1, py: 0.5 }}
    >
      <Box sx={{ width: 36, height: 36, bgcolor: 'plate', border: 1, borderColor: 'divider' }}>
        {shown && (
          <Box component="img" src={shown} alt="" sx={{ width: 34, height: 34, objectFit: 'cover' }} />
        )}
      </Box>
      <Box sx={{ minWidth: 0 }}>
        <TextField
          select
          fullWidth
          size="small"
          variant="standard"
          label={role}
          value={value}
          slotProps={{ select: { renderValue: () => worn(), MenuProps: { sx: { maxHeight: 420 } } } }}
          onChange={({ target }) => {
            setFinding(target.value === another);
            if (target.value !== another)
              onTry(target.value === asBefore ? undefined : target.value === noTexture ? null : target.value);
          }}
        >
          <MenuItem value={asBefore}>{own === null ? 'As before' : 'As the file says'}</MenuItem>
          <MenuItem value={noTexture}>None</MenuItem>
          {others.map((one) => (
            <MenuItem key={one} value={one}>
              {nameOf(one)}
            </MenuItem>
          ))}
          {choices.map((one) => (
            <MenuItem key={one.path} value={one.path} title={one.path}>
              <Box sx={{ minWidth: 0 }}>
                <span className="path">{nameOf(one.path)}</span>
                <Typography variant="caption" component="div" color="text.secondary">
                  {[one.variant, one.why].filter(Boolean).join(': ')}
                </Typography>
              </Box>
            </MenuItem>
          ))}
          {place && <MenuItem value={another}>Another file …</MenuItem>}
        </TextField>
        <Typography variant="caption" component="div" color="text.secondary" sx={{ lineHeight: 1.3 }}>
          {said.filter(Boolean).join('; ')}
          {source === 'said' && (
            <Button size="small" sx={{ minWidth: 0, py: 0, ml: 0.5 }} onClick={onTakeBack}>
              Take back
            </Button>
          )}
        </Typography>
        {children}
        {isFinding && place && (
          <AssetChoice
            channel={place.channel}
            build={place.build}
            kind="picture"
            label="Words of its path"
            onChoose={(found) => {
              onTry(found);
              setFinding(false);
            }}
          />
        )}
      </Box>
    </Box>
  );

  function worn(): string {
    if (path !== null) return nameOf(path);
    return source === 'file' ? own || 'in the file' : 'None';
  }
}

/** A colour to try in a tint mask. */
function TintFields({
  tint,
  onTint,
}: {
  tint: Tint | null;
  onTint: (tint: Omit<Tint, 'material'> | null) => void;
}): ReactNode {
  const colour = tint?.colour ?? '#9c2f1b';
  const channel = tint?.channel ?? 'r';
  return (
    <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
      <Box
        component="input"
        type="color"
        aria-label="Colour in the mask"
        value={colour}
        onChange={({ target }: { target: { value: string } }) => onTint({ colour: target.value, channel })}
        sx={{ width: 40, height: 24, p: 0, border: 1, borderColor: 'divider', bgcolor: 'transparent' }}
      />
      <TextField
        select
        variant="standard"
        size="small"
        label="Where"
        value={channel}
        onChange={({ target }) => onTint({ colour, channel: target.value as Channel })}
      >
        {(['r', 'g', 'b', 'a'] as const).map((one) => (
          <MenuItem key={one} value={one}>
            {one.toUpperCase()}
          </MenuItem>
        ))}
      </TextField>
      {tint && <Button onClick={() => onTint(null)}>No colour</Button>}
    </Box>
  );
}
