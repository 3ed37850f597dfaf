import { Box } from '@mui/material';
import { Suspense, lazy, useCallback, useState, type KeyboardEvent, type ReactNode } from 'react';
import { useSnackbar } from 'notistack';
import { useNavigate } from 'react-router';
import type { Finding, FindingsQuery } from '../../../contract/findings.ts';
import type { Mark, PassChange } from '../../../contract/pass.ts';
import { stepOf, type Extent } from '../../lists/steps.ts';
import { useSelection } from '../../lists/use-selection.ts';
import { comparePath, labelsOf } from '../../ui/compare-address.ts';
import { usePass } from '../pass/api.ts';
import { failureText } from '../../ui/api.ts';
import { personName } from '../../people/api.ts';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useFindingsWindow, usePathsBetween, useSayPairMutation } from './api.ts';
import { Filterbar } from './filterbar.tsx';
import { FindingsGrid } from './findings-grid.tsx';
import { useFilters, type View } from './use-filters.ts';
import { useKeepOrder, useKeptFacts } from './use-steady-facts.ts';

/** @param onEntry starts an entry of the catalogue with an asset */
export function FindingsView({ onEntry }: { onEntry: (path: string) => Promise<void> }): ReactNode {
  const { query, view, set } = useFilters();
  const { builds } = usePlace();
  if (builds.length === 0)
    return (
      <Empty title="No build yet">Bring in a first build; what changed shows from the second one on.</Empty>
    );
  if (!query) {
    return (
      <Empty title="One build alone has no findings">
        Pick a second mark on the line above: what differs between the two shows here.
      </Empty>
    );
  }
  return <Findings query={query} view={view} set={set} onEntry={onEntry} />;
}

/** They come when there is something to show in them: the list is there before. */
const BulkBar = lazy(async () => ({ default: (await import('./bulk-bar.tsx')).BulkBar }));
const FindingDetail = lazy(async () => ({ default: (await import('./finding-detail.tsx')).FindingDetail }));

const firstShown = { first: 0, last: 60 };

function Findings({
  query,
  view,
  set,
  onEntry,
}: {
  query: FindingsQuery;
  view: View;
  set: ReturnType<typeof useFilters>['set'];
  onEntry: (path: string) => Promise<void>;
}): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const navigate = useNavigate();
  const [shown, setShown] = useState(firstShown);
  const [isMarkingMany, setMarkingMany] = useState(false);
  const { enqueueSnackbar } = useSnackbar();
  const question = JSON.stringify(query) + view;
  const keptFacts = useKeptFacts(question);
  const [asOf, setAsOf] = keptFacts;
  const listQuery = asOf === undefined ? query : { ...query, asOf };
  const pathsBetween = usePathsBetween(listQuery);
  const selection = useSelection((first, last) =>
    pathsBetween(first, last).catch((error: unknown) => {
      enqueueSnackbar(`They were not selected: ${failureText(error as Parameters<typeof failureText>[0])}`);
      return [];
    }),
  );
  const { active, paths: chosen, reset } = selection;
  // Another question starts at the top, with nothing of the old one left over; what is being typed above stays as it is.
  const [asked, setAsked] = useState(question);
  if (asked !== question) {
    setAsked(question);
    setShown(firstShown);
    reset();
  }
  const window = useFindingsWindow(listQuery, shown.first, shown.last);
  const { page } = window;
  const isUntouched = active === 0 && chosen.size === 0 && shown.first === 0;
  useKeepOrder(query, window.pages, isUntouched, keptFacts);
  const total = page?.total ?? 0;
  const hidden = page?.folds.reduce((sum, { hides }) => sum + hides, 0) ?? 0;
  const current = window.at(active);
  const spanKey = { channel: query.channel, from: query.from, to: query.to };
  const pass = usePass(spanKey, page?.revision ?? 0);
  const [sayPair] = useSayPairMutation();
  const onShown = useCallback((first: number, last: number) => {
    setShown((before) => (before.first === first && before.last === last ? before : { first, last }));
  }, []);

  /** What was left open in an earlier span is marked there. */
  const spanOfCurrent = current?.carriedFrom ? { ...spanKey, ...current.carriedFrom } : spanKey;
  const change = (what: PassChange): void => {
    if (chosen.size > 0) void pass.change({ paths: [...chosen] }, what);
    else if (current) void pass.change({ paths: [current.path] }, what, spanOfCurrent);
  };
  const mark = (wanted: Mark): void => {
    if (!current) return;
    const isOn = chosen.size === 0 && current.pass.mark === wanted;
    change({ mark: isOn ? 'open' : wanted });
    if (!isOn && chosen.size === 0) selection.moveTo(Math.min(total - 1, active + 1));
  };
  const where = (finding: Finding): string =>
    assetPath(place, finding.status === 'removed' ? { from: null, to: span.from } : span, finding.path);
  const open = (): void => {
    if (current) void navigate(where(current));
  };
  const onKeyDown = (event: KeyboardEvent, extent: Extent): void => {
    if (!isForShortcut(event)) return;
    const actions: Record<string, () => void> = {
      k: () => mark('kept'),
      s: () => mark('aside'),
      d: () => mark('done'),
      o: () => change({ mark: 'open' }),
      t: () => change({ assignee: personName() }),
      u: () => void pass.undo(),
      ' ': () => current && selection.toggle(active, current.path),
      Escape: selection.clear,
      Enter: open,
      c: () =>
        current?.hash &&
        current.oldHash &&
        void navigate(comparePath(place, current.carriedFrom ?? labelsOf(span), current)),
      e: () => current && void onEntry(current.path),
      n: () => current && void navigate(`${where(current)}#note`),
    };
    const step = stepOf(event.key, extent, total);
    if (step !== undefined) {
      const to = Math.max(0, Math.min(total - 1, active + step));
      if (event.shiftKey) void selection.extendTo(to);
      else selection.moveTo(to);
    } else {
      const action = actions[event.key];
      if (!action) return;
      action();
    }
    event.preventDefault();
  };
  const onPair = (said: 'joined' | 'parted'): void => {
    if (current?.oldPath) void sayPair({ ...spanKey, path: current.path, oldPath: current.oldPath, said });
  };

  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <Filterbar
        query={query}
        page={page ?? window.lastPage}
        view={view}
        isFetching={window.isFetching}
        isMarkingMany={isMarkingMany}
        onNewFacts={page && page.newestFacts > page.asOf ? () => setAsOf(page.newestFacts) : null}
        onMarkMany={() => setMarkingMany(!isMarkingMany)}
        set={set}
      />
      {page && total > 0 && (chosen.size > 0 || isMarkingMany) && (
        <Suspense>
          <BulkBar
            query={listQuery}
            chosen={[...chosen]}
            current={current}
            total={total}
            onChange={(target, what) => void pass.change(target, what)}
            onClear={() => {
              selection.clear();
              setMarkingMany(false);
            }}
          />
        </Suspense>
      )}
      {window.isLoading && <Loading what="the findings" />}
      {window.error && <Failure text={failureText(window.error)} onRetry={window.refetch} />}
      {page && total === 0 && (
        <Empty
          title={
            isUnfiltered(query)
              ? hidden > 0
                ? 'Nothing but noise differs between these builds'
                : 'Nothing differs between these builds'
              : 'No finding passes these filters'
          }
        >
          {!isUnfiltered(query)
            ? 'Take one away, and more will show.'
            : hidden > 0
              ? `${hidden.toLocaleString('en')} findings are folded away as noise: choose “with noise” to see them.`
              : `All ${page.summary.unchanged.toLocaleString('en')} assets are the same in both.`}
        </Empty>
      )}
      {page && total > 0 && (
        <Box
          sx={{
            display: 'flex',
            flexDirection: { xs: 'column', md: 'row' },
            flex: 1,
            minHeight: 0,
          }}
        >
          <FindingsGrid
            key={question}
            view={view}
            total={total}
            at={window.at}
            selection={selection}
            onOpen={open}
            onShown={onShown}
            onKeyDown={onKeyDown}
          />
          {current && (
            <Suspense>
              <FindingDetail
                finding={current}
                people={page.people}
                labels={page.labels}
                onMark={mark}
                onChange={change}
                onOpen={open}
                onEntry={() => void onEntry(current.path)}
                onPair={onPair}
                number={active + 1}
                total={total}
              />
            </Suspense>
          )}
        </Box>
      )}
    </Box>
  );
}

function isUnfiltered({ status, kind, mark, text, assignee, label, folder }: FindingsQuery): boolean {
  return [status, kind, mark, text, assignee, label, folder].every((value) => value === '');
}
