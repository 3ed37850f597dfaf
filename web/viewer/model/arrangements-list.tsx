import { Box, Button, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type FormEvent, type ReactNode } from 'react';
import type { SetUp } from '../../../contract/arrangements.ts';
import { failureText } from '../../ui/api.ts';
import { useArrangementsQuery, useDropArrangementMutation, useKeepArrangementMutation } from './api.ts';

/** How the team has set this model up: by name, each with an address of its own. */
export function ArrangementsList({
  channel,
  path,
  setUp,
  isEmpty,
  chosen,
  onChoose,
}: {
  channel: number;
  path: string;
  setUp: SetUp;
  isEmpty: boolean;
  /** Name of the one that is shown as it was kept. */
  chosen: string | null;
  onChoose: (name: string | null) => void;
}): ReactNode {
  const { data: kept = [] } = useArrangementsQuery({ channel, path });
  const [keep, { isLoading }] = useKeepArrangementMutation();
  const [drop] = useDropArrangementMutation();
  const [name, setName] = useState('');
  const { enqueueSnackbar } = useSnackbar();
  const onKeep = (event: FormEvent): void => {
    event.preventDefault();
    const called = name.trim();
    void keep({ channel, path, name: called, setUp }).then((answer) => {
      if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
      else {
        setName('');
        onChoose(called);
      }
    });
  };
  return (
    <Box component="section" aria-label="Arrangements" sx={{ display: 'grid', gap: 0.5 }}>
      <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
        Arrangements
      </Typography>
      {kept.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          None is kept. Layers, props, parts that were moved and parts that are left out make one.
        </Typography>
      )}
      {kept.map((one) => (
        <Box key={one.name} sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
          <Button
            size="small"
            aria-pressed={one.name === chosen}
            onClick={() => onChoose(one.name === chosen ? null : one.name)}
            sx={{ flex: 1, justifyContent: 'flex-start', fontWeight: one.name === chosen ? 700 : 400 }}
          >
            {one.name}
          </Button>
          <Button
            size="small"
            aria-label={`Drop ${one.name}`}
            onClick={() => {
              if (one.name === chosen) onChoose(null);
              void drop({ channel, path, name: one.name });
            }}
          >
            Drop
          </Button>
        </Box>
      ))}
      <Box component="form" onSubmit={onKeep} sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
        <TextField
          variant="standard"
          size="small"
          fullWidth
          label="Keep this as"
          value={name}
          disabled={isEmpty}
          onChange={({ target }) => setName(target.value)}
          slotProps={{ htmlInput: { maxLength: 120 } }}
        />
        <Button type="submit" disabled={isEmpty || isLoading || name.trim() === ''}>
          Keep
        </Button>
      </Box>
    </Box>
  );
}
