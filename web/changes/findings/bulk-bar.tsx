import { Box, Button, MenuItem, TextField } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { Finding, FindingsQuery } from '../../../contract/findings.ts';
import { labelSchema, type Mark, type PassChange } from '../../../contract/pass.ts';
import { useLazyFamilyQuery } from '../../library/families/api.ts';
import { personName } from '../../people/api.ts';
import { folderOf } from '../../ui/path-text.tsx';
import type { Target } from '../pass/api.ts';

interface Props {
  query: FindingsQuery;
  /** Paths of those that are chosen. */
  chosen: readonly string[];
  current: Finding | undefined;
  total: number;
  onChange: (target: Target, change: PassChange) => void;
  onClear: () => void;
}

type Scope = 'chosen' | 'folder' | 'family' | 'all';

/** Changes many findings at once: those that are chosen, of a folder, of a family, or all that are shown. */
export function BulkBar({ query, chosen, current, total, onChange, onClear }: Props): ReactNode {
  const [wanted, setScope] = useState<Scope>('all');
  const [label, setLabel] = useState('');
  const [getFamily] = useLazyFamilyQuery();
  const scope: Scope = chosen.length > 0 ? 'chosen' : wanted === 'chosen' ? 'all' : wanted;
  const folder = current ? folderOf(current.path).replace(/!?\/$/, '') : '';
  const targetOf = async (): Promise<Target | null> => {
    if (scope === 'chosen') return { paths: [...chosen] };
    if (scope === 'all') return { filter: query };
    if (scope === 'folder') return { filter: { ...query, folder } };
    if (!current) return null;
    const { data } = await getFamily({ channel: query.channel, build: query.to, path: current.path });
    return { paths: data ? data.members.map(({ path }) => path) : [current.path] };
  };
  const change = async (what: PassChange): Promise<void> => {
    const target = await targetOf();
    if (target) onChange(target, what);
  };
  const marks: [Mark, string][] = [
    ['kept', 'Keep'],
    ['aside', 'Set aside'],
    ['done', 'Done'],
    ['open', 'Open again'],
  ];
  return (
    <Box
      role="toolbar"
      aria-label="Many findings at once"
      sx={{
        display: 'flex',
        gap: 0.75,
        px: 2,
        py: 0.4,
        borderBottom: 1,
        borderColor: 'divider',
        alignItems: 'center',
        flexWrap: 'wrap',
        bgcolor: chosen.length > 0 ? 'plate' : 'transparent',
      }}
    >
      <TextField
        select
        variant="standard"
        value={scope}
        onChange={({ target }) => setScope(target.value as Scope)}
        slotProps={{ htmlInput: { 'aria-label': 'Which findings' } }}
        sx={{ minWidth: 190 }}
      >
        {chosen.length > 0 && (
          <MenuItem value="chosen">{`the ${chosen.length.toLocaleString('en')} selected`}</MenuItem>
        )}
        <MenuItem value="all">{`all ${total.toLocaleString('en')} that are shown`}</MenuItem>
        <MenuItem
          value="folder"
          disabled={folder === ''}
        >{`shown in ${folder === '' ? 'its folder' : folder}`}</MenuItem>
        <MenuItem value="family" disabled={!current}>
          the current one’s family
        </MenuItem>
      </TextField>
      {marks.map(([mark, word]) => (
        <Button key={mark} onClick={() => void change({ mark })}>
          {word}
        </Button>
      ))}
      <Button onClick={() => void change({ assignee: personName() })}>Assign to me</Button>
      <TextField
        variant="standard"
        placeholder="label"
        value={label}
        onChange={({ target }) => setLabel(target.value)}
        slotProps={{ htmlInput: { 'aria-label': 'Label for these', maxLength: 40 } }}
        sx={{ width: 90 }}
      />
      <Button
        disabled={!labelSchema.safeParse(label).success}
        onClick={() => void change({ addLabels: [label.trim()] }).then(() => setLabel(''))}
      >
        Label
      </Button>
      <Box sx={{ flex: 1 }} />
      <Button onClick={onClear}>{chosen.length > 0 ? 'Clear selection' : 'Close'}</Button>
    </Box>
  );
}
