import { Box } from '@mui/material';
import { skipToken } from '@reduxjs/toolkit/query/react';
import { lazy, Suspense, useMemo, useState, type ReactNode } from 'react';
import type { FieldPath, Run } from '../../../core/formats/field-tree.ts';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePaused } from '../../ui/use-paused.ts';
import { contentAddress, fileAddress } from '../../viewer/asset-addresses.ts';
import { useAssetQuery } from '../../viewer/assets-api.ts';
import { useSheetFilesQuery } from './api.ts';
import { BytesView } from './bytes-view.tsx';
import { FileChoice } from './file-choice.tsx';
import { FitPane } from './fit-pane.tsx';
import { LinesView } from './lines-view.tsx';
import { sheetHead } from './new-sheet.ts';
import { PaneTabs } from '../../ui/pane-tabs.tsx';
import { ProposalsPane } from './proposals-pane.tsx';
import { ResultPane } from './result-pane.tsx';
import { Gaps, remarksOf, Says } from './says.tsx';
import { useWorkshop } from './use-workshop.ts';

const SheetEditor = lazy(() => import('./sheet-editor.tsx'));
const FieldsPane = lazy(() => import('./fields-pane.tsx'));

const panes = { fields: 'Fields', proposals: 'Proposals', result: 'Result', fit: 'Fit' } as const;
type Pane = keyof typeof panes;

/** Editor, bytes, and what comes of them, for one file. */
export function Bench({
  where,
  text,
  kept,
  onText,
}: {
  where: { channel: number; build: string; before: string | null };
  text: string;
  kept: { name: string; version: string | null } | null;
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
  const version = parameters.get('version') ?? kept?.version ?? null;
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
  const samples = files && files.paths.length > 0 ? files.paths.slice(0, 16) : [path];
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
              addresses={samples.map((one) => fileAddress(where.channel, where.build, one))}
              before={
                where.before === null
                  ? null
                  : {
                      build: where.before,
                      addresses: samples.map((one) => fileAddress(where.channel, where.before ?? '', one)),
                    }
              }
              onLook={(place) => {
                look(place.begin, null);
                setChosen(place);
              }}
            />
          )}
          {pane === 'fit' && (
            <FitPane
              {...{ where, text, kept }}
              isUsable={outcome !== null && outcome.problems.length === 0}
              onFile={(next) => set({ file: next, at: '', pane: 'fields' })}
            />
          )}
        </Box>
      </Box>
    </Box>
  );
}
