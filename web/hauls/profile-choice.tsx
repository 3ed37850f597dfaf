import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { HaulSettings } from '../../contract/haul-settings.ts';
import { failureText } from '../ui/api.ts';
import { useDropProfileMutation, useKeepProfileMutation, useProfilesQuery } from './api.ts';

/** Takes settings by name, and keeps those that are here under one. */
export function ProfileChoice({
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
