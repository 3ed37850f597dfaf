import { Box, Button, FormControlLabel, Radio, RadioGroup, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { MapScene } from '../../../contract/assets.ts';
import type { GroundExtent } from '../../../core/kinds/map/ground/height-field.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { AssetChoice } from '../asset-choice.tsx';
import type { Changes } from '../model/look-address.ts';
import { NumberRow } from '../model/number-fields.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { groundChanges, type SaidGround } from './ground-words.ts';
import type { FoundGround } from './use-ground.ts';

/** What lies under a map: its heights, its picture, and where that is. */
export function GroundPanel({
  channel,
  build,
  grounds,
  said,
  found,
  say,
}: {
  channel: number;
  build: string;
  grounds: MapScene['grounds'];
  said: SaidGround;
  found: FoundGround;
  say: (changes: Changes) => void;
}): ReactNode {
  const { place, fitted, isLoading, failure } = found;
  const choice = { channel, build };
  return (
    <Box sx={{ p: 1, display: 'grid', gap: 1.25, overflowY: 'auto', alignContent: 'start', minHeight: 0 }}>
      <Pictures
        {...choice}
        label="Heights"
        found={grounds.heights}
        chosen={said.heights}
        onChoose={(path) => say(groundChanges.heights(path))}
      />
      <Pictures
        {...choice}
        label="Seen from above"
        found={grounds.pictures}
        chosen={said.picture}
        onChoose={(path) => say(groundChanges.picture(path))}
      />
      <Typography variant="body2" role={failure ? 'alert' : 'status'} sx={{ overflowWrap: 'anywhere' }}>
        {failure ? `The ground is not shown: ${failure}` : stateText(said, found)}
      </Typography>
      {place && !isLoading && (
        <>
          <NumberRow
            label="Middle"
            what="Middle of the ground"
            names={['x', 'z']}
            values={readable([place.extent.x, place.extent.z])}
            onChange={([x = 0, z = 0]) => say(groundChanges.extent({ ...place.extent, x, z }))}
          />
          <NumberRow
            label="Size"
            what="Size of the ground"
            names={['x', 'z']}
            isPositive
            values={readable([place.extent.width, place.extent.depth])}
            onChange={([width = 1, depth = 1]) =>
              say(groundChanges.extent({ ...place.extent, width, depth }))
            }
          />
          <NumberRow
            label="Heights"
            what="Heights of the ground"
            names={['lowest', 'highest']}
            values={readable([place.levels.lowest, place.levels.highest])}
            onChange={([lowest = 0, highest = 0]) => say(groundChanges.levels({ lowest, highest }))}
          />
          <Box sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}>
            <Toggle
              isOn={place.extent.isFlipped}
              onClick={() => say(groundChanges.extent(flipped(place.extent)))}
            >
              First row at the far end
            </Toggle>
            {fitted && (said.extent !== null || said.levels !== null) && (
              <Button onClick={() => say(groundChanges.asFitted())}>As it fits</Button>
            )}
          </Box>
        </>
      )}
    </Box>
  );
}

function flipped(extent: GroundExtent): GroundExtent {
  return { ...extent, isFlipped: !extent.isFlipped };
}

function stateText(said: SaidGround, { fitted, isLoading, ground }: FoundGround): string {
  if (isLoading) return 'The ground is read.';
  if (said.heights === null)
    return ground ? 'Flat: it has no heights.' : 'None. A picture of the build can be chosen above.';
  if (fitted)
    return `${fitted.standing.toLocaleString('en')} of ${fitted.within.toLocaleString('en')} things within stand on it: so it was fitted.`;
  return ground
    ? 'Too few things stand on it to tell where it lies, and how high it is: type it here, in metres.'
    : 'Nothing stands on it: it may be of another map. Choose it to see it nevertheless.';
}

function Pictures({
  label,
  found,
  chosen,
  channel,
  build,
  onChoose,
}: {
  label: string;
  found: readonly string[];
  chosen: string | null;
  channel: number;
  build: string;
  onChoose: (path: string | null) => void;
}): ReactNode {
  const all = [...new Set([...found, ...(chosen === null ? [] : [chosen])])];
  return (
    <Box component="section" aria-label={label}>
      <Typography variant="body2" sx={{ fontWeight: 700 }}>
        {label}
      </Typography>
      <RadioGroup
        aria-label={label}
        value={chosen ?? ''}
        onChange={(_, path) => onChoose(path === '' ? null : path)}
        sx={{ pl: 1, '& .MuiRadio-root': { p: 0.25, mr: 0.5 } }}
      >
        {all.map((path) => (
          <FormControlLabel
            key={path}
            value={path}
            control={<Radio size="small" />}
            label={
              <span className="path" title={path}>
                {nameOf(path)}
              </span>
            }
          />
        ))}
        <FormControlLabel value="" control={<Radio size="small" />} label="None" />
      </RadioGroup>
      <AssetChoice {...{ channel, build }} kind="picture" label="Another picture" onChoose={onChoose} />
    </Box>
  );
}

/** To the millimetre: what was fitted has more places than anybody reads. */
function readable(values: readonly number[]): number[] {
  return values.map((value) => Math.round(value * 1000) / 1000);
}
