import CloseIcon from '@mui/icons-material/Close';
import { Box, Button, IconButton, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useRef, useState, type ChangeEvent, type FormEvent, type ReactNode } from 'react';
import {
  nameRoleSchema,
  type LexiconEntry,
  type LexiconState,
  type NameRole,
} from '../../../contract/names.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { TextFilter } from '../../ui/text-filter.tsx';
import { useImportLexiconMutation } from './api.ts';
import { useChange } from './use-lexicon.ts';

interface Props {
  titleId: number;
  state: LexiconState;
  build: string;
}

const shown = 500;

/** What people say that parts of names mean. */
export function LexiconTable({ titleId, state, build }: Props): ReactNode {
  const change = useChange(titleId);
  const [filter, setFilter] = useState('');
  const [edited, setEdited] = useState<LexiconEntry | null>(null);
  const words = filter.toLowerCase().split(/\s+/);
  const entries = state.entries.filter(({ part, role, meaning }) =>
    words.every((word) => `${part} ${role} ${meaning}`.toLowerCase().includes(word)),
  );
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <EntryForm
        key={edited?.part ?? ''}
        entry={edited ?? { part: '', role: 'code name', meaning: '', saidBy: '', sinceBuild: build }}
        onSave={async (entry) => {
          const isRenamed = edited !== null && edited.part !== entry.part;
          if (await change({ put: [entry], drop: isRenamed ? [edited.part] : [] })) setEdited(null);
        }}
        onCancel={edited ? () => setEdited(null) : null}
      />
      <Box
        sx={{
          px: 2,
          py: 0.5,
          display: 'flex',
          gap: 1,
          alignItems: 'center',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <TextFilter value={filter} onChange={setFilter} label="Find a part or a meaning" />
        <Typography role="status" variant="body2" color="text.secondary" sx={{ flex: 1 }}>
          {`${plural(entries.length, 'entry').replace('entrys', 'entries')}${entries.length > shown ? `, the first ${shown} are shown` : ''}`}
        </Typography>
        <Files titleId={titleId} />
      </Box>
      <Box sx={{ flex: 1, overflow: 'auto', minHeight: 0, px: 2 }}>
        {state.entries.length === 0 ? (
          <Typography color="text.secondary" sx={{ py: 3, maxWidth: 640 }}>
            Nobody has said yet what names mean. The proposals are read from the data: look at those first.
            What the trade uses everywhere (levels of detail, roles of textures) is known without being
            written here.
          </Typography>
        ) : (
          <Box
            component="table"
            sx={{
              borderCollapse: 'collapse',
              width: '100%',
              '& td, & th': {
                borderBottom: 1,
                borderColor: 'divider',
                textAlign: 'left',
                py: 0.25,
                pr: 1.5,
                fontWeight: 400,
              },
            }}
          >
            <thead>
              <Box
                component="tr"
                sx={{
                  '& th': {
                    color: 'text.secondary',
                    fontSize: '0.8rem',
                    position: 'sticky',
                    top: 0,
                    bgcolor: 'background.default',
                  },
                }}
              >
                <th>Part</th>
                <th>Means</th>
                <th>Role</th>
                <th>Said by</th>
                <th>Since build</th>
                <th aria-label="Do" />
              </Box>
            </thead>
            <tbody>
              {entries.slice(0, shown).map((entry) => (
                <tr key={entry.part}>
                  <th scope="row" className="path">
                    {entry.part}
                  </th>
                  <td>{entry.meaning}</td>
                  <td>{entry.role}</td>
                  <td>{entry.saidBy}</td>
                  <td>{entry.sinceBuild}</td>
                  <Box component="td" sx={{ whiteSpace: 'nowrap', textAlign: 'right !important' }}>
                    <Button onClick={() => setEdited(entry)}>Change</Button>
                    <IconButton
                      size="small"
                      aria-label={`Take ${entry.part} out`}
                      onClick={() => void change({ drop: [entry.part] })}
                    >
                      <CloseIcon fontSize="inherit" />
                    </IconButton>
                  </Box>
                </tr>
              ))}
            </tbody>
          </Box>
        )}
      </Box>
    </Box>
  );
}

function EntryForm({
  entry,
  onSave,
  onCancel,
}: {
  entry: LexiconEntry;
  onSave: (entry: LexiconEntry) => Promise<void>;
  onCancel: (() => void) | null;
}): ReactNode {
  const [form, setForm] = useState(entry);
  const field = (name: keyof LexiconEntry, label: string, width: number) => ({
    label,
    value: form[name],
    variant: 'standard' as const,
    sx: { width },
    onChange: ({ target }: { target: { value: string } }) => setForm({ ...form, [name]: target.value }),
    slotProps: { inputLabel: { shrink: true } },
  });
  const submit = async (event: FormEvent): Promise<void> => {
    event.preventDefault();
    await onSave({ ...form, part: form.part.trim().toLowerCase() });
    if (!onCancel) setForm({ ...form, part: '', meaning: '' });
  };
  return (
    <Box
      component="form"
      aria-label="Entry of the lexicon"
      onSubmit={(event) => void submit(event)}
      sx={{
        px: 2,
        py: 1,
        display: 'flex',
        gap: 2,
        alignItems: 'flex-end',
        flexWrap: 'wrap',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <TextField {...field('part', 'Part or code name', 160)} placeholder="gru, l#, gru_white" />
      <TextField {...field('meaning', 'Means', 260)} placeholder="heron; # stands for the number" />
      <TextField
        {...field('role', 'Role', 150)}
        select
        onChange={({ target }) => setForm({ ...form, role: target.value as NameRole })}
      >
        {nameRoleSchema.options.map((role) => (
          <MenuItem key={role} value={role}>
            {role}
          </MenuItem>
        ))}
      </TextField>
      <TextField {...field('sinceBuild', 'Since build', 90)} />
      <Button type="submit" variant="outlined" disabled={form.part.trim() === ''}>
        {onCancel ? 'Save' : 'Add'}
      </Button>
      {onCancel && <Button onClick={onCancel}>Cancel</Button>}
    </Box>
  );
}

function Files({ titleId }: { titleId: number }): ReactNode {
  const input = useRef<HTMLInputElement>(null);
  const { enqueueSnackbar } = useSnackbar();
  const [send] = useImportLexiconMutation();
  const read = async ({ target }: ChangeEvent<HTMLInputElement>): Promise<void> => {
    const file = target.files?.[0];
    target.value = '';
    if (!file) return;
    const answer = await send({ titleId, text: await file.text() });
    if (answer.error)
      enqueueSnackbar(failureText(answer.error), { variant: 'error', autoHideDuration: 8000 });
    else
      enqueueSnackbar(
        `${file.name} was read: the lexicon has ${answer.data.entries.length.toLocaleString('en')} entries.`,
      );
  };
  return (
    <>
      <input
        ref={input}
        type="file"
        accept=".csv,.json,text/csv,application/json"
        hidden
        aria-label="A lexicon as CSV or JSON"
        onChange={(event) => void read(event)}
      />
      <Button onClick={() => input.current?.click()}>Read a file</Button>
      <Button component="a" href={`/api/titles/${titleId}/lexicon/file?form=csv`}>
        Save as CSV
      </Button>
      <Button component="a" href={`/api/titles/${titleId}/lexicon/file?form=json`}>
        as JSON
      </Button>
    </>
  );
}
