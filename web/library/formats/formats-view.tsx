import { Box, Button, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useMemo, useState, type ReactNode } from 'react';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { useSaveSheetsMutation, useSheetsQuery } from './api.ts';
import { Bench } from './bench.tsx';
import { newSheet, sheetHead } from './new-sheet.ts';

/** Where a team finds out how a game's own files are built: a sheet, a file, and what the one makes of the other. */
export function FormatsView(): ReactNode {
  const { title } = usePlace();
  const span = useSpan();
  const { data: state, error, refetch } = useSheetsQuery(title.id);
  const build = span.to?.label ?? '';
  if (build === '') return <Empty title="No build yet">A format is found out from files of a build.</Empty>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!state) return <Loading what="the format sheets" />;
  return <Formats build={build} texts={state.sheets.map(({ text }) => text)} revision={state.revision} />;
}

function Formats({
  build,
  texts,
  revision,
}: {
  build: string;
  texts: readonly string[];
  revision: string;
}): ReactNode {
  const { title, channel } = usePlace();
  const { enqueueSnackbar } = useSnackbar();
  const [parameters, set] = useAddress();
  const [save, { isLoading: isSaving }] = useSaveSheetsMutation();
  const names = useMemo(() => texts.map((text) => sheetHead(text).name), [texts]);
  const asked = parameters.get('sheet');
  const file = parameters.get('file') ?? '';
  const isNew = asked === '(new)' || (asked === null && (texts.length === 0 || file !== ''));
  const at = isNew ? -1 : Math.max(0, names.indexOf(asked ?? ''));
  const kept = texts[at] ?? '';
  const { from, to } = useSpan();
  const versionIn = (name: string): string | null => to?.settings.formatVersions[name] ?? null;
  const [drafts, setDrafts] = useState<ReadonlyMap<string, string>>(new Map());
  const key = isNew ? '(new)' : (names[at] ?? '');
  const text = drafts.get(key) ?? (isNew ? newSheet(file, names) : kept);
  const isChanged = isNew || text !== kept;
  const edit = (next: string | null): void =>
    setDrafts((before) => {
      const drafted = new Map(before);
      if (next === null) drafted.delete(key);
      else drafted.set(key, next);
      return drafted;
    });
  const send = async (next: string[], said: string): Promise<boolean> => {
    const answer = await save({ titleId: title.id, sheets: next.map((one) => ({ text: one })), revision });
    if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
    else enqueueSnackbar(`${said} What it concerns is being read again.`);
    return !answer.error;
  };
  const keep = async (): Promise<void> => {
    const next = isNew ? [...texts, text] : texts.map((one, place) => (place === at ? text : one));
    if (!(await send(next, 'The sheet is saved.'))) return;
    edit(null);
    set({ sheet: sheetHead(text).name });
  };
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          ...{ px: 2, py: 0.5, borderBottom: 1, borderColor: 'divider' },
          ...{ display: 'flex', gap: 1, alignItems: 'baseline', flexWrap: 'wrap' },
        }}
      >
        <Typography variant="h1" sx={{ mr: 2 }}>
          Formats
        </Typography>
        {names.map((name, place) => (
          <Toggle key={name} isOn={place === at} onClick={() => set({ sheet: name, file: '', at: '' })}>
            {drafts.has(name) ? `${name} *` : name}
          </Toggle>
        ))}
        <Toggle isOn={isNew} onClick={() => set({ sheet: '(new)' })}>
          New sheet
        </Toggle>
        <Box sx={{ ml: 'auto', display: 'flex', gap: 1 }}>
          {!isNew && (
            <Button
              disabled={isSaving}
              onClick={() =>
                void send(
                  texts.filter((_, place) => place !== at),
                  'The sheet is gone.',
                ).then((isGone) => isGone && set({ sheet: '', file: '', at: '' }))
              }
            >
              Remove
            </Button>
          )}
          {drafts.has(key) && <Button onClick={() => edit(null)}>Undo all</Button>}
          <Button variant="outlined" disabled={!isChanged || isSaving} onClick={() => void keep()}>
            Save for this title
          </Button>
        </Box>
      </Box>
      <Bench
        key={`${channel.id} ${build}`}
        where={{ channel: channel.id, build, before: from?.label ?? null }}
        text={text}
        kept={isChanged ? null : { name: names[at] ?? '', version: versionIn(names[at] ?? '') }}
        onText={edit}
      />
    </Box>
  );
}
