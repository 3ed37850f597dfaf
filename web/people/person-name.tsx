import { TextField } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { usePerson, useRenameMutation } from './api.ts';

/** The name under which the person at this browser does things; kept when the field is left, or by Enter. */
export function PersonName(): ReactNode {
  const person = usePerson();
  const [rename] = useRenameMutation();
  const [edited, setEdited] = useState<string | null>(null);
  const save = (): void => {
    const name = (edited ?? '').trim();
    setEdited(null);
    if (name !== '' && name !== person) void rename(name);
  };
  return (
    <TextField
      label="Your name"
      size="small"
      value={edited ?? person}
      onChange={({ target }) => setEdited(target.value)}
      onBlur={save}
      onKeyDown={(event) => {
        if (event.key === 'Enter') save();
      }}
      slotProps={{ htmlInput: { maxLength: 120, autoComplete: 'nickname' } }}
    />
  );
}
