import { Checkbox, ListItemText, MenuItem, TextField } from '@mui/material';
import type { ReactNode } from 'react';
import { useKeyringQuery } from '../keyring/api.ts';

/**
 * Which keys of the title are tried; nothing where it has none.
 * @param keys their numbers; null for all of them
 */
export function KeysChoice({
  title,
  keys,
  onChange,
}: {
  title: string;
  keys: readonly number[] | null;
  onChange: (keys: number[] | null) => void;
}): ReactNode {
  const { data } = useKeyringQuery();
  const known = data?.keys.filter((key) => key.title === title) ?? [];
  if (known.length === 0) return null;
  // A key that was removed since is none to choose.
  const chosen = keys?.filter((id) => known.some((key) => key.id === id)) ?? [];
  return (
    <TextField
      select
      fullWidth
      label="Keys that are tried"
      value={chosen}
      onChange={({ target }) => {
        const values = (target.value as unknown as number[]).map(Number);
        onChange(values.length === 0 ? null : values);
      }}
      slotProps={{
        inputLabel: { shrink: true },
        select: {
          multiple: true,
          displayEmpty: true,
          renderValue: () => (chosen.length === 0 ? 'all of the title' : chosen.map(nameOf).join(', ')),
        },
      }}
    >
      {known.map(({ id, builds, remark }) => (
        <MenuItem key={id} value={id} dense>
          <Checkbox size="small" checked={chosen.includes(id)} />
          <ListItemText
            primary={`${nameOf(id)}, for ${builds.length === 0 ? 'all builds' : builds.join(', ')}`}
            secondary={remark}
          />
        </MenuItem>
      ))}
    </TextField>
  );
}

function nameOf(id: number): string {
  return `key ${id}`;
}
