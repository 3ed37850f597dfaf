import { Box, Button, Checkbox, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { nameRoleSchema, type NameRole, type Proposal } from '../../../contract/names.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { useProposalsQuery } from './api.ts';
import { useChange } from './use-lexicon.ts';

interface Props {
  titleId: number;
  where: { channel: number; build: string };
}

/** What the data say that parts may mean: a person accepts, corrects or refuses each. */
export function Proposals({ titleId, where }: Props): ReactNode {
  const { data, error, isLoading, refetch } = useProposalsQuery(where);
  const change = useChange(titleId);
  const [edits, setEdits] = useState<ReadonlyMap<string, Partial<Proposal>>>(new Map());
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set());
  if (isLoading) return <Loading what="what names may mean" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (data.length === 0)
    return (
      <Empty title="Nothing to propose">Every part that stands out is in the lexicon, or was refused.</Empty>
    );
  const entryOf = (proposal: Proposal) => {
    const { part, role, meaning } = { ...proposal, ...edits.get(proposal.part) };
    return { part, role, meaning, saidBy: '', sinceBuild: where.build };
  };
  const edit = (part: string, changes: Partial<Proposal>): void => {
    setEdits((before) => new Map(before).set(part, { ...before.get(part), ...changes }));
  };
  const ticked = data.filter(({ part }) => chosen.has(part));
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
        {data.map((proposal) => {
          const { part, evidence, examples } = proposal;
          const { role, meaning } = entryOf(proposal);
          return (
            <Box
              key={part}
              component="section"
              aria-label={part}
              sx={{
                px: 2,
                py: 0.75,
                display: 'grid',
                gridTemplateColumns: '34px 110px 1fr 150px 190px 150px',
                gap: 1,
                alignItems: 'center',
                borderBottom: 1,
                borderColor: 'divider',
              }}
            >
              <Checkbox
                size="small"
                checked={chosen.has(part)}
                slotProps={{ input: { 'aria-label': `Choose ${part}` } }}
                onChange={() =>
                  setChosen((before) => {
                    const next = new Set(before);
                    if (!next.delete(part)) next.add(part);
                    return next;
                  })
                }
                sx={{ p: 0 }}
              />
              <strong className="path">{part}</strong>
              <Box sx={{ minWidth: 0 }}>
                <Typography variant="body2">{evidence}</Typography>
                {examples.slice(0, 2).map((path) => (
                  <Box key={path} sx={{ color: 'text.secondary' }}>
                    <PathText path={path} />
                  </Box>
                ))}
              </Box>
              <TextField
                select
                variant="standard"
                value={role}
                slotProps={{ htmlInput: { 'aria-label': `Role of ${part}` } }}
                onChange={({ target }) => edit(part, { role: target.value as NameRole })}
              >
                {nameRoleSchema.options.map((option) => (
                  <MenuItem key={option} value={option}>
                    {option}
                  </MenuItem>
                ))}
              </TextField>
              <TextField
                variant="standard"
                value={meaning}
                placeholder="what it means"
                slotProps={{ htmlInput: { 'aria-label': `Meaning of ${part}` } }}
                onChange={({ target }) => edit(part, { meaning: target.value })}
              />
              <Box sx={{ display: 'flex', justifyContent: 'flex-end' }}>
                <Button
                  onClick={() => void change({ put: [entryOf(proposal)] })}
                  disabled={meaning.trim() === ''}
                >
                  Accept
                </Button>
                <Button onClick={() => void change({ refuse: [part] })}>Refuse</Button>
              </Box>
            </Box>
          );
        })}
      </Box>
      <Box
        sx={{
          px: 2,
          py: 0.75,
          borderTop: 1,
          borderColor: 'divider',
          display: 'flex',
          gap: 1,
          alignItems: 'center',
        }}
      >
        <Button
          onClick={() =>
            setChosen(
              new Set(data.filter((proposal) => entryOf(proposal).meaning !== '').map(({ part }) => part)),
            )
          }
        >
          Choose all that have a meaning
        </Button>
        <Button
          variant="outlined"
          disabled={ticked.length === 0}
          onClick={() =>
            void change({ put: ticked.map(entryOf) }).then((isDone) => isDone && setChosen(new Set()))
          }
        >
          {`Accept ${ticked.length === 0 ? 'what is chosen' : ticked.length}`}
        </Button>
        <Button
          disabled={ticked.length === 0}
          onClick={() =>
            void change({ refuse: ticked.map(({ part }) => part) }).then(
              (isDone) => isDone && setChosen(new Set()),
            )
          }
        >
          Refuse
        </Button>
      </Box>
    </Box>
  );
}
