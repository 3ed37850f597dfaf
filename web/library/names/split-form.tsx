import { Box, Button, Checkbox, FormControlLabel, TextField, Typography } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import type { LexiconState } from '../../../contract/names.ts';
import { splitName, stemOf } from '../../../core/names/split.ts';
import { useChange } from './use-lexicon.ts';

/** How the names of a title are split, tried at once on an example. */
export function SplitForm({ titleId, state }: { titleId: number; state: LexiconState }): ReactNode {
  const change = useChange(titleId);
  const [rules, setRules] = useState(state.rules);
  const [example, setExample] = useState('HeronWing_upper-l0.glb');
  const submit = (event: FormEvent): void => {
    event.preventDefault();
    void change({ rules, revision: state.revision });
  };
  return (
    <Box
      component="form"
      aria-label="How names are split"
      onSubmit={submit}
      sx={{ p: 3, display: 'grid', gap: 2, maxWidth: 640, justifyItems: 'start' }}
    >
      <TextField
        label="Characters between parts"
        value={rules.separators}
        onChange={({ target }) => setRules({ ...rules, separators: target.value })}
        slotProps={{ htmlInput: { className: 'path', maxLength: 20 } }}
      />
      <FormControlLabel
        control={
          <Checkbox
            checked={rules.camelCase}
            onChange={({ target }) => setRules({ ...rules, camelCase: target.checked })}
          />
        }
        label="A capital letter after a small one begins a part"
      />
      <FormControlLabel
        control={
          <Checkbox
            checked={rules.digitsApart}
            onChange={({ target }) => setRules({ ...rules, digitsApart: target.checked })}
          />
        }
        label="Digits are parts of their own"
      />
      <TextField
        label="Try it on a name"
        fullWidth
        value={example}
        onChange={({ target }) => setExample(target.value)}
        slotProps={{ htmlInput: { className: 'path' } }}
      />
      <Typography
        component="output"
        aria-label="Its parts"
        sx={{ display: 'flex', gap: 1, flexWrap: 'wrap' }}
      >
        {splitName(stemOf(example), rules).map((part, at) => (
          <Box
            key={at}
            component="span"
            className="path"
            sx={{ border: 1, borderColor: 'divider', px: 0.75 }}
          >
            {part}
          </Box>
        ))}
      </Typography>
      <Button type="submit" variant="outlined">
        Save for this title
      </Button>
    </Box>
  );
}
