import { Box, MenuItem, TextField, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { eulerOrderSchema, type PlacementRecipe } from '../../../contract/recipes.ts';

interface Props {
  recipe: PlacementRecipe;
  onChange: (recipe: PlacementRecipe) => void;
}

const hints: Record<PlacementRecipe['form'], string> = {
  json: 'Fields are keys with dots: pos.x, or pos for a list of three.',
  csv: 'Fields are names of columns, or their numbers from 1.',
  xml: 'Fields are @attribute, element, or element/@attribute.',
  binary: 'Fields are offset:type in a row: 0:u32, 4:f32, 4:f32*3, 16:text32.',
};

/** Which field is what. */
export function RecipeForm({ recipe, onChange }: Props): ReactNode {
  const text = (
    label: string,
    value: string,
    put: (value: string) => PlacementRecipe,
    width: number | string = '100%',
  ) => (
    <TextField
      label={label}
      variant="standard"
      value={value}
      onChange={({ target }) => onChange(put(target.value))}
      sx={{ width }}
      slotProps={{ inputLabel: { shrink: true }, htmlInput: { className: 'path' } }}
    />
  );
  const choice = <Value extends string>(
    label: string,
    value: Value,
    options: readonly Value[],
    put: (value: Value) => PlacementRecipe,
    width = 120,
  ) => (
    <TextField
      select
      label={label}
      variant="standard"
      value={value}
      onChange={({ target }) => onChange(put(target.value as Value))}
      sx={{ width }}
      slotProps={{ inputLabel: { shrink: true } }}
    >
      {options.map((option) => (
        <MenuItem key={option} value={option}>
          {option}
        </MenuItem>
      ))}
    </TextField>
  );
  // Several fields stand in one box, parted by blanks: one that holds all numbers, or one for each.
  const several = (label: string, value: readonly string[], put: (value: string[]) => PlacementRecipe) =>
    text(label, value.join(' '), (typed) => put(typed === '' ? [] : typed.split(' ').slice(0, 4)));
  const { form, binary, rotation } = recipe;
  const row = { display: 'flex', gap: 2, flexWrap: 'wrap' } as const;
  return (
    <Box
      component="form"
      aria-label="Recipe"
      onSubmit={(event) => event.preventDefault()}
      sx={{ p: 2, display: 'grid', gap: 1.5 }}
    >
      {text('Name', recipe.name, (name) => ({ ...recipe, name }))}
      <Box sx={row}>
        {text('Files', recipe.files, (files) => ({ ...recipe, files }), 240)}
        {choice('Form', form, ['json', 'csv', 'xml', 'binary'], (next) => ({ ...recipe, form: next }))}
      </Box>
      {(form === 'json' || form === 'xml') &&
        text(
          form === 'json' ? 'Rows stand at (key.key, * for each)' : 'Rows are (element/element)',
          recipe.rows,
          (rows) => ({ ...recipe, rows }),
        )}
      {form === 'csv' &&
        text(
          'Delimiter (empty: detect it)',
          recipe.delimiter,
          (delimiter) => ({ ...recipe, delimiter }),
          240,
        )}
      {form === 'binary' && (
        <Box sx={row}>
          {text(
            'Header size (bytes)',
            String(binary.headBytes),
            (value) => ({ ...recipe, binary: { ...binary, headBytes: whole(value, 0) } }),
            90,
          )}
          {text(
            'Row stride (bytes)',
            String(binary.rowBytes),
            (value) => ({ ...recipe, binary: { ...binary, rowBytes: whole(value, 1) } }),
            90,
          )}
          {text('Row count at', binary.count, (count) => ({ ...recipe, binary: { ...binary, count } }), 110)}
          {choice(
            'Byte order',
            binary.isBigEndian ? 'Big-endian' : 'Little-endian',
            ['Little-endian', 'Big-endian'],
            (order) => ({ ...recipe, binary: { ...binary, isBigEndian: order === 'Big-endian' } }),
          )}
        </Box>
      )}
      <Typography variant="body2" color="text.secondary">
        {hints[form]}
      </Typography>
      <Box sx={row}>
        {text('Model', recipe.model, (model) => ({ ...recipe, model }), 200)}
        {text('Class', recipe.class, (name) => ({ ...recipe, class: name }), 200)}
      </Box>
      <Box sx={row}>
        {text('Id', recipe.id, (id) => ({ ...recipe, id }), 130)}
        {text('Name of the thing', recipe.label, (label) => ({ ...recipe, label }), 130)}
        {text('Locator', recipe.locator, (locator) => ({ ...recipe, locator }), 110)}
      </Box>
      {several('Position: one field, or x y z', recipe.position, (position) => ({ ...recipe, position }))}
      <Box sx={row}>
        {text(
          'Metres per unit',
          String(recipe.metresPerUnit),
          (value) => ({ ...recipe, metresPerUnit: Number(value) > 0 ? Number(value) : recipe.metresPerUnit }),
          120,
        )}
        {choice('Up axis', recipe.up, ['Y', 'Z'], (up) => ({ ...recipe, up }), 80)}
      </Box>
      <Box sx={row}>
        {choice('Rotation', rotation.sort, ['none', 'euler', 'quaternion'], (sort) => ({
          ...recipe,
          rotation: { ...rotation, sort },
        }))}
        {rotation.sort === 'euler' &&
          choice('Order of axes', rotation.order, eulerOrderSchema.options, (order) => ({
            ...recipe,
            rotation: { ...rotation, order },
          }))}
        {rotation.sort === 'euler' &&
          choice('Angles in', rotation.unit, ['degrees', 'radians'], (unit) => ({
            ...recipe,
            rotation: { ...rotation, unit },
          }))}
        {rotation.sort === 'quaternion' &&
          choice('Order', rotation.quaternion, ['xyzw', 'wxyz'], (quaternion) => ({
            ...recipe,
            rotation: { ...rotation, quaternion },
          }))}
      </Box>
      {rotation.sort !== 'none' &&
        several(
          rotation.sort === 'euler'
            ? 'Angles: one field, or about x, y, z'
            : 'Quaternion: one field, or four',
          rotation.fields,
          (fields) => ({ ...recipe, rotation: { ...rotation, fields } }),
        )}
      {several('Scale: one field, or x y z; empty for 1', recipe.scale, (scale) => ({ ...recipe, scale }))}
    </Box>
  );
}

function whole(text: string, least: number): number {
  const number = Number.parseInt(text, 10);
  return Number.isFinite(number) ? Math.max(least, number) : least;
}
