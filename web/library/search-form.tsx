import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import { rangeFields } from '../../core/search/query.ts';
import { emptyForm, writeQuery, type QueryForm } from '../../core/search/write-query.ts';

/** Writes a query for who does not know how it is written, and shows how it is. */
export function SearchForm({ onSearch }: { onSearch: (text: string) => void }): ReactNode {
  const [form, setForm] = useState<QueryForm>(emptyForm);
  const text = writeQuery(form);
  const field = (name: keyof QueryForm, label: string, placeholder = '') => ({
    label,
    placeholder,
    value: form[name],
    variant: 'standard' as const,
    onChange: ({ target }: { target: { value: string } }) => setForm({ ...form, [name]: target.value }),
    slotProps: { inputLabel: { shrink: true } },
  });
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    onSearch(text);
  };
  return (
    <Box
      component="form"
      aria-label="Search form"
      onSubmit={submit}
      sx={{ display: 'flex', gap: 2, alignItems: 'flex-end', flexWrap: 'wrap', width: '100%', pb: 1 }}
    >
      <TextField {...field('words', 'With these words', 'heron "white wing"')} sx={{ width: 220 }} />
      <TextField {...field('without', 'Without')} sx={{ width: 110 }} />
      <TextField {...field('extensions', 'Extensions', 'glb, png')} sx={{ width: 110 }} />
      <TextField {...field('inTexts', 'In texts', 'wet planks')} sx={{ width: 130 }} />
      <TextField {...field('figure', 'Figure')} select sx={{ width: 120 }}>
        {Object.entries(rangeFields).map(([name, unit]) => (
          <MenuItem key={name} value={name}>
            {name === 'size' ? 'size in bytes' : unit}
          </MenuItem>
        ))}
      </TextField>
      <TextField {...field('from', 'From', '10k')} sx={{ width: 80 }} />
      <TextField {...field('to', 'To', '2MB')} sx={{ width: 80 }} />
      <Button type="submit" variant="outlined" disabled={text === ''}>
        Search
      </Button>
      <Box component="output" className="path" sx={{ color: 'text.secondary', alignSelf: 'center' }}>
        {text}
      </Box>
    </Box>
  );
}
