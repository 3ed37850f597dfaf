import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace } from '../../ui/use-span.ts';
import type { StatesQuery } from './api.ts';

/** Which two states are compared: builds and paths, any of them. */
export function StateChooser({ states }: { states: StatesQuery }): ReactNode {
  const { builds } = usePlace();
  const [, set] = useAddress();
  const [oldPath, setOldPath] = useState(states.oldPath);
  const [newPath, setNewPath] = useState(states.newPath);
  const isChanged = oldPath !== states.oldPath || newPath !== states.newPath;
  const apply = (changes: Partial<StatesQuery>): void => {
    const next = { ...states, oldPath: oldPath.trim(), newPath: newPath.trim(), ...changes };
    set(
      {
        from: next.oldBuild,
        to: next.newBuild,
        path: next.newPath,
        oldPath: next.oldPath === next.newPath ? '' : next.oldPath,
        way: '',
      },
      { replace: false },
    );
  };
  const side = (
    label: string,
    build: 'oldBuild' | 'newBuild',
    path: string,
    setPath: (path: string) => void,
  ): ReactNode => (
    <Box sx={{ display: 'flex', gap: 1, flex: 1, minWidth: 0, alignItems: 'end' }}>
      <TextField
        select
        variant="standard"
        label={`${label}, build`}
        value={states[build]}
        onChange={({ target }) => apply({ [build]: target.value })}
        sx={{ minWidth: 74 }}
      >
        {builds.map((option) => (
          <MenuItem key={option.id} value={option.label}>
            {option.label}
          </MenuItem>
        ))}
      </TextField>
      <TextField
        variant="standard"
        label={`${label}, path`}
        value={path}
        onChange={({ target }) => setPath(target.value)}
        fullWidth
        slotProps={{ htmlInput: { className: 'path', spellCheck: false } }}
      />
    </Box>
  );
  return (
    <Box
      component="form"
      aria-label="What is compared"
      onSubmit={(event) => {
        event.preventDefault();
        apply({});
      }}
      sx={{
        display: 'flex',
        gap: 2,
        px: 2,
        py: 0.5,
        borderBottom: 1,
        borderColor: 'divider',
        alignItems: 'end',
      }}
    >
      {side('Before', 'oldBuild', oldPath, setOldPath)}
      {side('After', 'newBuild', newPath, setNewPath)}
      <Button
        onClick={() =>
          apply({ oldBuild: states.newBuild, newBuild: states.oldBuild, oldPath: newPath, newPath: oldPath })
        }
      >
        Swap
      </Button>
      <Button type="submit" variant={isChanged ? 'contained' : 'text'} disabled={!isChanged}>
        Compare
      </Button>
    </Box>
  );
}
