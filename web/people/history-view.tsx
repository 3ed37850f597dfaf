import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { changeSubjectSchema, type Change } from '../../contract/history.ts';
import { plural } from '../../core/figures.ts';
import { useTitlesQuery } from '../acquire/builds/api.ts';
import { failureText } from '../ui/api.ts';
import { momentText } from '../ui/dates.ts';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAddress } from '../ui/use-address.ts';
import { WorkPage } from '../ui/work-page.tsx';
import { useChangeItemsQuery, useChangesQuery, useUndoChangeMutation } from './api.ts';
import { stateText } from './state-text.ts';
import { PersonName } from './person-name.tsx';

const pageSize = 100;

/** What everybody changed in a title, the newest first; each change can be taken back. */
export function HistoryView(): ReactNode {
  const { data: titles } = useTitlesQuery();
  const [parameters, set] = useAddress();
  const title = titles?.find(({ name }) => name === parameters.get('title')) ?? titles?.[0];
  const subject = changeSubjectSchema.safeParse(parameters.get('subject')).data ?? '';
  const by = parameters.get('by') ?? '';
  const page = Math.max(0, Math.floor(Number(parameters.get('page') ?? 0)) || 0);
  const { data, error, refetch } = useChangesQuery(
    { title: title?.id ?? 0, subject, by, offset: page * pageSize, limit: pageSize },
    { skip: !title },
  );
  const choose = (name: string) => (value: string) =>
    set({ [name]: value, page: undefined }, { replace: false });
  const turnTo = (next: number): void =>
    set({ page: next === 0 ? undefined : String(next) }, { replace: false });
  if (titles?.length === 0)
    return (
      <WorkPage title="History">
        <Empty title="Nothing was changed yet">
          Bring in a build, and what people say of it stands here.
        </Empty>
      </WorkPage>
    );
  return (
    <WorkPage
      title="History"
      lead="What people said and changed, the newest first. Each change can be taken back."
    >
      <Box sx={{ display: 'flex', gap: 1.5, flexWrap: 'wrap', mb: 2 }}>
        {titles && titles.length > 1 && (
          <Choice
            label="Title"
            value={title?.name ?? ''}
            options={titles.map(({ name }) => name)}
            onChange={choose('title')}
          />
        )}
        <Choice
          label="What"
          value={subject}
          options={changeSubjectSchema.options}
          anything="everything"
          onChange={choose('subject')}
        />
        <Choice
          label="Who"
          value={by}
          options={data?.people ?? (by === '' ? [] : [by])}
          anything="everybody"
          onChange={choose('by')}
        />
        <Box sx={{ flex: 1 }} />
        <PersonName />
      </Box>
      {error && <Failure text={failureText(error)} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the history" />}
      {data?.total === 0 && (
        <Empty title="Nothing was changed yet">
          Marks, names, links and notes stand here once somebody makes them.
        </Empty>
      )}
      {data && data.total > 0 && (
        <>
          <Typography role="status" variant="body2" color="text.secondary" sx={{ mb: 1 }}>
            {data.total > pageSize
              ? `${(page * pageSize + 1).toLocaleString('en')} to ${(page * pageSize + data.changes.length).toLocaleString('en')} of ${plural(data.total, 'change')}`
              : plural(data.total, 'change')}
          </Typography>
          <Box component="ol" aria-label="Changes" sx={{ listStyle: 'none', m: 0, p: 0, maxWidth: 1160 }}>
            {data.changes.map((change) => (
              <ChangeLine key={change.id} change={change} />
            ))}
          </Box>
          {data.total > pageSize && (
            <Box component="nav" aria-label="Pages of the history" sx={{ display: 'flex', gap: 1, mt: 1.5 }}>
              <Button disabled={page === 0} onClick={() => turnTo(page - 1)}>
                Newer
              </Button>
              <Button disabled={(page + 1) * pageSize >= data.total} onClick={() => turnTo(page + 1)}>
                Older
              </Button>
            </Box>
          )}
        </>
      )}
    </WorkPage>
  );
}

function ChangeLine({ change }: { change: Change }): ReactNode {
  const [undo, { isLoading }] = useUndoChangeMutation();
  const { enqueueSnackbar } = useSnackbar();
  const [isOpen, setOpen] = useState(false);
  const { id, subject, channel, from, to, what, doneBy, doneAt, items, isUndone } = change;
  const onUndo = async (): Promise<void> => {
    const { data, error } = await undo({ id, subject });
    if (!data) enqueueSnackbar(failureText(error), { variant: 'error' });
    else if (data.conflicts.length > 0)
      enqueueSnackbar(
        `${plural(data.conflicts.length, 'thing')} changed again since then, and left as they are: ${data.conflicts.slice(0, 3).join(', ')}`,
        { variant: 'warning' },
      );
    else enqueueSnackbar(`Took it back: ${what}`);
  };
  return (
    <Box component="li" sx={{ borderTop: 1, borderColor: 'divider', py: 0.75 }}>
      <Box sx={{ display: 'flex', gap: 2, alignItems: 'baseline', flexWrap: { xs: 'wrap', md: 'nowrap' } }}>
        <Typography variant="body2" color="text.secondary" sx={{ width: 176, flexShrink: 0 }}>
          {momentText(doneAt)}
        </Typography>
        <Typography variant="body2" sx={{ width: 130, flexShrink: 0, overflowWrap: 'anywhere' }}>
          <strong>{doneBy || 'Somebody'}</strong>
        </Typography>
        <Typography
          variant="body2"
          sx={{
            flex: { xs: '1 0 100%', md: 1 },
            minWidth: 0,
            overflowWrap: 'anywhere',
            textDecoration: isUndone ? 'line-through' : 'none',
          }}
        >
          {what}
        </Typography>
        <Typography variant="body2" color="text.secondary" sx={{ flexShrink: 0 }}>
          {[subject, channel, from !== '' && to !== '' ? `${from} to ${to}` : ''].filter(Boolean).join(', ')}
        </Typography>
        <Button
          size="small"
          aria-expanded={isOpen}
          aria-label={`Details of: ${what}`}
          onClick={() => setOpen(!isOpen)}
        >
          {plural(items, 'thing')}
        </Button>
        {subject === 'deeds' ? (
          <Box sx={{ width: 64 }} />
        ) : isUndone ? (
          <Typography variant="body2" color="text.secondary" sx={{ width: 64 }}>
            undone
          </Typography>
        ) : (
          <Button
            size="small"
            aria-label={`Undo: ${what}`}
            disabled={isLoading}
            onClick={() => void onUndo()}
          >
            Undo
          </Button>
        )}
      </Box>
      {isOpen && <Items id={id} total={items} />}
    </Box>
  );
}

function Items({ id, total }: { id: number; total: number }): ReactNode {
  const { data, error } = useChangeItemsQuery(id);
  if (error) return <Failure text={failureText(error)} />;
  if (!data) return <Loading what="what it was" />;
  return (
    <Box component="dl" sx={{ m: 0, mt: 0.5, pl: { xs: 0, md: '192px' }, fontSize: '0.85rem' }}>
      {data.map(({ item, before, after }) => (
        <Box key={item} sx={{ mb: 0.75 }}>
          <Box component="dt" className="path" sx={{ overflowWrap: 'anywhere' }}>
            {item.replace('\n', ' → ')}
          </Box>
          <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere', color: 'text.secondary' }}>
            {`before: ${stateText(before)}`}
          </Box>
          <Box component="dd" sx={{ m: 0, overflowWrap: 'anywhere' }}>{`after: ${stateText(after)}`}</Box>
        </Box>
      ))}
      {total > data.length && <Typography variant="body2">{`… and ${total - data.length} more`}</Typography>}
    </Box>
  );
}

function Choice({
  label,
  value,
  options,
  anything,
  onChange,
}: {
  label: string;
  value: string;
  options: readonly string[];
  /** What no choice is called; without it, one has to be chosen. */
  anything?: string;
  onChange: (value: string) => void;
}): ReactNode {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={value}
      sx={{ minWidth: 150 }}
      onChange={({ target }) => onChange(target.value)}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
    >
      {anything !== undefined && <MenuItem value="">{anything}</MenuItem>}
      {options.map((option) => (
        <MenuItem key={option} value={option}>
          {option}
        </MenuItem>
      ))}
    </TextField>
  );
}
