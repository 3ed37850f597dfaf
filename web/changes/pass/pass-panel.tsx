import { momentText } from '../../ui/dates.ts';
import { Autocomplete, Box, Button, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { Finding } from '../../../contract/findings.ts';
import type { PassChange, SpanKey } from '../../../contract/pass.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { usePerson } from '../../people/api.ts';
import { PersonName } from '../../people/person-name.tsx';
import { useAddRemarkMutation, useRemarksQuery } from './api.ts';

/** Who has a finding, its labels, what was remarked on it, and who did what last. */
export function PassPanel({
  finding,
  people,
  labels,
  onChange,
}: {
  finding: Finding;
  people: readonly string[];
  labels: readonly string[];
  onChange: (change: PassChange) => void;
}): ReactNode {
  const { pass } = finding;
  const person = usePerson();
  const [assignee, setAssignee] = useState<string | null>(null);
  const settle = (name: string): void => {
    setAssignee(null);
    if (name !== pass.assignee) onChange({ assignee: name });
  };
  return (
    <Box sx={{ display: 'grid', gap: 1 }}>
      <Autocomplete
        freeSolo
        size="small"
        options={[...new Set([person, ...people])]}
        value={pass.assignee}
        inputValue={assignee ?? pass.assignee}
        onInputChange={(_, value, reason) => setAssignee(reason === 'input' ? value : null)}
        onChange={(_, value) => settle(value ?? '')}
        onBlur={() => assignee !== null && settle(assignee.trim())}
        renderInput={(field) => <TextField {...field} label="Who has it" />}
      />
      <Autocomplete
        multiple
        freeSolo
        size="small"
        options={labels.filter((label) => !pass.labels.includes(label))}
        value={pass.labels}
        onChange={(_, value) =>
          onChange({
            addLabels: value
              .map((label) => label.trim())
              .filter((label) => label !== '' && !pass.labels.includes(label)),
            removeLabels: pass.labels.filter((label) => !value.includes(label)),
          })
        }
        renderInput={(field) => <TextField {...field} label="Labels" />}
      />
      {pass.changedAt !== null && (
        <Typography variant="caption" color="text.secondary">
          {`${pass.changedBy || 'Somebody'} changed it ${momentText(pass.changedAt ?? '')}.`}
        </Typography>
      )}
      <Remarks key={finding.path} finding={finding} />
    </Box>
  );
}

function Remarks({ finding }: { finding: Finding }): ReactNode {
  const { channel } = usePlace();
  const { from, to } = useSpan();
  const span: SpanKey = {
    channel: channel.id,
    from: finding.carriedFrom?.from ?? from?.label ?? '',
    to: finding.carriedFrom?.to ?? to?.label ?? '',
  };
  const { data } = useRemarksQuery({ ...span, path: finding.path }, { skip: finding.remarks === 0 });
  const [add] = useAddRemarkMutation();
  const [text, setText] = useState('');
  const send = async (): Promise<void> => {
    const { error } = await add({ ...span, path: finding.path, body: text });
    if (!error) setText('');
  };
  return (
    <Box>
      {data?.map(({ id, body, saidBy, saidAt }) => (
        <Typography key={id} variant="body2" sx={{ mb: 0.5, overflowWrap: 'anywhere' }}>
          <strong>{saidBy || 'Somebody'}</strong>
          {`, ${momentText(saidAt)}: ${body}`}
        </Typography>
      ))}
      <TextField
        label="Remark"
        size="small"
        fullWidth
        multiline
        maxRows={4}
        value={text}
        onChange={({ target }) => setText(target.value)}
        onKeyDown={(event) => {
          if (event.key === 'Enter' && (event.ctrlKey || event.metaKey) && text.trim() !== '') void send();
        }}
      />
      <Box sx={{ display: 'flex', gap: 1, mt: 0.75 }}>
        <PersonName />
        <Button variant="outlined" disabled={text.trim() === ''} onClick={() => void send()}>
          Remark
        </Button>
      </Box>
    </Box>
  );
}
