import { Box, Button, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { lazy, Suspense, useEffect, useMemo, useState, type ReactNode } from 'react';
import { skipToken } from '@reduxjs/toolkit/query/react';
import type { FieldPath, Run } from '../../../core/formats/field-tree.ts';
import { offsetText } from '../../../core/formats/language/sheet-error.ts';
import type { Outcome } from '../../../core/formats/workshop.ts';
import { bytesText } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { contentAddress, fileAddress, useAssetQuery } from '../../viewer/assets-api.ts';
import { useSaveSheetsMutation, useSheetFilesQuery, useSheetsQuery } from './api.ts';
import { BytesView } from './bytes-view.tsx';
import { FitPane } from './fit-pane.tsx';
import { LinesView } from './lines-view.tsx';
import { newSheet, sheetHead } from './new-sheet.ts';
import { PaneTabs } from './pane-tabs.tsx';
import { ProposalsPane } from './proposals-pane.tsx';
import { ResultPane } from './result-pane.tsx';
import type { SheetRemark } from './sheet-editor.tsx';
import { useWorkshop } from './use-workshop.ts';
import { mono } from '../../ui/theme.ts';
import { usePaused } from '../../ui/use-paused.ts';

const SheetEditor = lazy(() => import('./sheet-editor.tsx'));
const FieldsPane = lazy(() => import('./fields-pane.tsx'));

const panes = { fields: 'Fields', proposals: 'Proposals', result: 'Result', fit: 'Fit' } as const;
type Pane = keyof typeof panes;

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
        where={{ channel: channel.id, build }}
        text={text}
        onText={edit}
      />
    </Box>
  );
}

/** Editor, bytes, and what comes of them, for one file. */
function Bench({
  where,
  text,
  onText,
}: {
  where: { channel: number; build: string };
  text: string;
  onText: (text: string) => void;
}): ReactNode {
  const [parameters, set] = useAddress();
  const { patterns } = sheetHead(text);
  const paused = JSON.parse(usePaused(JSON.stringify(patterns), 300)) as string[];
  const { currentData: files } = useSheetFilesQuery(
    paused.length > 0 ? { ...where, patterns: paused } : skipToken,
  );
  const path = parameters.get('file') || (files?.paths[0] ?? '');
  const { currentData: asset, error } = useAssetQuery({ ...where, path }, { skip: path === '' });
  const [chosen, setChosen] = useState<{ begin: number; end: number } | null>(null);
  const [field, setField] = useState<FieldPath | null>(null);
  const version = parameters.get('version');
  const opened = useMemo(
    () =>
      asset?.hash && asset.size !== null
        ? {
            ...{ path: asset.path, size: asset.size },
            content: contentAddress(asset.hash, 'binary'),
            address: fileAddress(where.channel, where.build, asset.path),
          }
        : null,
    [asset, where.channel, where.build],
  );
  const { thread, outcome, round, failure, ...tried } = useWorkshop(opened, text, version);
  const at = Math.min(Number(parameters.get('at') ?? 0) || 0, Math.max(0, (opened?.size ?? 1) - 1));
  const pane = (parameters.get('pane') ?? 'fields') as Pane;
  const remarks = useMemo(() => remarksOf(outcome), [outcome]);
  const look = (place: number, run: Run | null): void => {
    setChosen(run);
    setField(run?.path ?? null);
    set({ at: String(place) });
  };
  const fault = outcome?.misfit?.at ?? null;
  return (
    <Box
      sx={{
        ...{ flex: 1, minHeight: 0, display: 'flex', flexDirection: { xs: 'column', md: 'row' } },
        overflow: { xs: 'auto', md: 'visible' },
      }}
    >
      <Box
        component="section"
        aria-label="Sheet"
        sx={{
          ...{
            width: { xs: 'auto', md: '29%' },
            minHeight: { xs: 320, md: 0 },
            display: 'flex',
            flexDirection: 'column',
          },
          ...{ borderRight: { md: 1 }, borderColor: { md: 'divider' } },
        }}
      >
        <Suspense fallback={<Loading what="the editor" />}>
          <SheetEditor text={text} remarks={remarks} onChange={onText} />
        </Suspense>
        <Says outcome={outcome} failure={failure} onFault={(place) => look(place, null)} />
      </Box>
      <Box
        sx={{
          ...{ width: { xs: 'auto', md: 320, lg: 520 }, flexShrink: 0, minHeight: { xs: 480, md: 0 } },
          ...{
            display: 'flex',
            flexDirection: 'column',
            borderRight: { md: 1 },
            borderColor: { md: 'divider' },
          },
        }}
      >
        <FileChoice
          path={path}
          files={files ?? { count: 0, paths: [] }}
          size={opened?.size ?? null}
          onPath={(next) => {
            if (next === path) return;
            setChosen(null);
            setField(null);
            set({ file: next, at: '' });
          }}
        />
        {error && path !== '' && <Failure text={failureText(error)} />}
        {path === '' && (
          <Empty title="No file of this build is meant">
            “files” in the sheet says which ones: choose one, or type its path.
          </Empty>
        )}
        {opened && !thread && failure === '' && <Loading what="the file" />}
        {thread && opened && outcome?.isText && <LinesView thread={thread} round={round} fault={fault} />}
        {thread && opened && opened.size > 0 && !outcome?.isText && (
          <BytesView {...{ thread, round, at, chosen, fault }} size={opened.size} onAt={look} />
        )}
      </Box>
      <Box
        component="section"
        aria-label="What comes of it"
        sx={{ flex: 1, minWidth: 0, minHeight: { xs: 420, md: 0 }, display: 'flex', flexDirection: 'column' }}
      >
        <PaneTabs
          label="What comes of it"
          panes={panes}
          shown={pane}
          onShow={(next) => set({ pane: next })}
        />
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto', display: 'flex', flexDirection: 'column' }}>
          {pane === 'fields' && thread && outcome && (
            <>
              <Gaps
                outcome={outcome}
                onGap={(gap) => {
                  look(gap.begin, null);
                  setChosen(gap);
                }}
              />
              <Suspense fallback={<Loading what="the fields" />}>
                <FieldsPane
                  {...{ thread, round }}
                  path={field}
                  onChoose={({ path: next, place }) => {
                    setField(next);
                    setChosen(place);
                    if (place && !outcome.isText) set({ at: String(place.begin) });
                  }}
                />
              </Suspense>
            </>
          )}
          {pane === 'result' && outcome && (
            <ResultPane
              outcome={outcome}
              asked={{ ...where, path, text: tried.text, ...(version !== null && { version }) }}
            />
          )}
          {pane === 'proposals' && thread && (
            <ProposalsPane
              {...{ thread, text, at, onText }}
              addresses={(files && files.paths.length > 0 ? files.paths.slice(0, 16) : [path]).map((one) =>
                fileAddress(where.channel, where.build, one),
              )}
              onLook={(place) => {
                look(place.begin, null);
                setChosen(place);
              }}
            />
          )}
          {pane === 'fit' && (
            <FitPane
              {...{ where, text }}
              isUsable={outcome !== null && outcome.problems.length === 0}
              onFile={(next) => set({ file: next, at: '', pane: 'fields' })}
            />
          )}
        </Box>
      </Box>
    </Box>
  );
}

function remarksOf(outcome: Outcome | null): SheetRemark[] {
  if (!outcome) return [];
  const { problems, misfit } = outcome;
  if (problems.length > 0) return problems;
  if (!misfit || misfit.line === null) return [];
  return [{ line: misfit.line, column: 1, message: misfitText(outcome) }];
}

function misfitText({ misfit, isText }: Outcome): string {
  if (!misfit) return '';
  const { at, where, message } = misfit;
  const place = at === null ? '' : isText ? `in line ${at}: ` : `at ${offsetText(at)}: `;
  return `${place}${where === '' ? '' : `${where}: `}${message}`;
}

/** What came of the sheet, in a sentence. */
function Says({
  outcome,
  failure,
  onFault,
}: {
  outcome: Outcome | null;
  failure: string;
  onFault: (at: number) => void;
}): ReactNode {
  const problem = outcome?.problems[0];
  const misfit = outcome?.misfit ?? null;
  const version = outcome && outcome.version !== '' ? `Version ${outcome.version}: ` : '';
  const text =
    failure !== ''
      ? failure
      : problem
        ? `Line ${problem.line}: ${problem.message}`
        : misfit && outcome
          ? `${version}${misfitText(outcome)}`
          : outcome
            ? `${version}${outcome.says}`
            : '';
  const isWrong = failure !== '' || problem !== undefined || misfit !== null;
  return (
    <Box
      role="status"
      sx={{ borderTop: 1, borderColor: 'divider', px: 1.5, py: 0.75, maxHeight: 130, overflow: 'auto' }}
    >
      <Typography
        variant="body2"
        color={isWrong ? 'error' : 'text.primary'}
        sx={{ overflowWrap: 'anywhere' }}
      >
        {text}
      </Typography>
      {misfit?.at !== null && misfit?.at !== undefined && !outcome?.isText && (
        <Button onClick={() => onFault(misfit.at ?? 0)} sx={{ p: 0 }}>
          Show the byte
        </Button>
      )}
    </Box>
  );
}

function Gaps({
  outcome: { gaps, problems },
  onGap,
}: {
  outcome: Outcome;
  onGap: (gap: { begin: number; end: number }) => void;
}): ReactNode {
  const [first] = gaps.first;
  if (problems.length > 0 || !first) return null;
  return (
    <Box sx={{ px: 2, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
      <Typography variant="body2" color="text.secondary" component="span">
        {`${bytesText(gaps.bytes)} that no field explains, in ${gaps.first.length >= 200 ? '200 places or more' : gaps.first.length === 1 ? 'one place' : `${gaps.first.length} places`}: `}
      </Typography>
      {gaps.first.slice(0, 4).map((gap) => (
        <Button key={gap.begin} onClick={() => onGap(gap)} className="path" sx={{ p: 0, minWidth: 0, mr: 1 }}>
          {offsetText(gap.begin)}
        </Button>
      ))}
    </Box>
  );
}

function FileChoice({
  path,
  files,
  size,
  onPath,
}: {
  path: string;
  files: { count: number; paths: string[] };
  size: number | null;
  onPath: (path: string) => void;
}): ReactNode {
  const [typed, setTyped] = useState(path);
  useEffect(() => setTyped(path), [path]);
  return (
    <Box sx={{ px: 1, pt: 1, pb: 0.5, borderBottom: 1, borderColor: 'divider' }}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onPath(typed);
        }}
      >
        <TextField
          fullWidth
          variant="standard"
          label={`File${size === null ? '' : `, ${bytesText(size)}`}; the sheet is for ${files.count.toLocaleString('en')}`}
          value={typed}
          onChange={({ target }) => {
            setTyped(target.value);
            // One that is chosen from the list is there whole.
            if (files.paths.includes(target.value)) onPath(target.value);
          }}
          onBlur={() => onPath(typed)}
          slotProps={{ htmlInput: { list: 'files-of-sheet', spellCheck: false } }}
          sx={{ '& input': { fontFamily: mono, fontSize: '0.82rem' } }}
        />
        <datalist id="files-of-sheet">
          {files.paths.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </form>
    </Box>
  );
}
