import { Box, Button, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { failureText } from '../ui/api.ts';
import { momentText } from '../ui/dates.ts';
import { useAddEntryRemarkMutation, useEntryRemarksQuery, useSettleEntryRemarkMutation } from './api.ts';

/** What people remark on an entry before it is published. */
export function EntryRemarks({ id }: { id: number }): ReactNode {
  const { data: remarks } = useEntryRemarksQuery(id);
  const [add, { error, isLoading }] = useAddEntryRemarkMutation();
  const [settle] = useSettleEntryRemarkMutation();
  const [text, setText] = useState('');
  const send = async (): Promise<void> => {
    const { data } = await add({ id, field: '', text });
    if (data) setText('');
  };
  return (
    <Box>
      <Typography variant="h2">Remarks</Typography>
      <Box component="ul" aria-label="Remarks" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {remarks?.map((remark) => (
          <Box
            component="li"
            key={remark.id}
            sx={{ borderTop: 1, borderColor: 'divider', py: 0.5, overflowWrap: 'anywhere' }}
          >
            <Typography variant="body2" color="text.secondary">
              {`${remark.by || 'Somebody'}, ${momentText(remark.at)}${remark.isSettled ? ', settled' : ''}`}
            </Typography>
            <Typography sx={{ textDecoration: remark.isSettled ? 'line-through' : 'none' }}>
              {remark.text}
            </Typography>
            <Button size="small" onClick={() => void settle({ id, remark: remark.id })}>
              {remark.isSettled ? 'Open it again' : 'Settle it'}
            </Button>
          </Box>
        ))}
      </Box>
      <TextField
        multiline
        fullWidth
        size="small"
        label="What is to be changed"
        value={text}
        onChange={({ target }) => setText(target.value)}
      />
      <Button sx={{ mt: 0.5 }} disabled={isLoading || text.trim() === ''} onClick={() => void send()}>
        Remark it
      </Button>
      {error && <Typography role="alert">{failureText(error)}</Typography>}
    </Box>
  );
}
