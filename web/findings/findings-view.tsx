import { Box } from '@mui/material';
import { useCallback, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { FindingsQuery, Mark } from '../../contract/findings.ts';
import { failureText } from '../shell/api.ts';
import { isTyping } from '../shell/is-typing.ts';
import { Empty, Failure, Loading } from '../shell/states.tsx';
import { assetPath, usePlace, useSpan } from '../shell/use-span.ts';
import { useFindingsWindow, useMarkMutation } from './api.ts';
import { Filterbar } from './filterbar.tsx';
import { FindingDetail } from './finding-detail.tsx';
import { FindingsGrid } from './findings-grid.tsx';
import { useFilters, type View } from './use-filters.ts';

export function FindingsView(): ReactNode {
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
  // A new question starts at the top, with nothing of the old one left over.
  return <Findings key={JSON.stringify(query) + view} query={query} view={view} set={set} />;
}

function Findings({
  query,
  view,
  set,
}: {
  query: FindingsQuery;
  view: View;
  set: ReturnType<typeof useFilters>['set'];
}): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const navigate = useNavigate();
  const [shown, setShown] = useState({ first: 0, last: 60 });
  const [selected, setSelected] = useState(0);
  const columns = useRef(1);
  const window = useFindingsWindow(query, shown.first, shown.last);
  const [sendMark] = useMarkMutation();
  const { page } = window;
  const total = page?.total ?? 0;
  const current = window.at(selected);
  const onShown = useCallback((first: number, last: number) => {
    setShown((before) => (before.first === first && before.last === last ? before : { first, last }));
  }, []);

  const onColumns = useCallback((count: number): void => {
    columns.current = count;
  }, []);

  const mark = (wanted: Mark): void => {
    if (!current) return;
    void sendMark({
      query: window.queryAt(selected),
      path: current.path,
      mark: current.mark === wanted ? null : wanted,
    });
    if (current.mark !== wanted) setSelected(Math.min(total - 1, selected + 1));
  };
  const open = (): void => {
    if (!current) return;
    const build = current.status === 'removed' ? { from: null, to: span.from } : span;
    void navigate(assetPath(place, build, current.path));
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey || isTyping(event.target)) return;
    const steps: Record<string, number> = {
      ArrowRight: 1,
      ArrowLeft: -1,
      ArrowDown: columns.current,
      ArrowUp: -columns.current,
      PageDown: columns.current * 4,
      PageUp: -columns.current * 4,
      Home: -total,
      End: total,
    };
    const step = steps[event.key];
    if (step !== undefined) setSelected(Math.max(0, Math.min(total - 1, selected + step)));
    else if (event.key === 'k') mark('kept');
    else if (event.key === 's') mark('aside');
    else if (event.key === 'Enter') open();
    else if (event.key === 'n' && current) {
      void navigate(
        `${assetPath(place, current.status === 'removed' ? { from: null, to: span.from } : span, current.path)}#note`,
      );
    } else return;
    event.preventDefault();
  };

  return (
    <Box sx={{ display: 'flex', flexDirection: 'column', flex: 1, minHeight: 0 }}>
      <Filterbar query={query} page={page} view={view} isFetching={window.isFetching} set={set} />
      {window.isLoading && <Loading what="the findings" />}
      {window.error && <Failure text={failureText(window.error)} onRetry={window.refetch} />}
      {page && total === 0 && (
        <Empty
          title={
            isUnfiltered(query) ? 'Nothing differs between these builds' : 'No finding passes these filters'
          }
        >
          {isUnfiltered(query)
            ? `All ${page.summary.unchanged.toLocaleString('en')} assets are the same in both.`
            : 'Take one away, and more will show.'}
        </Empty>
      )}
      {page && total > 0 && (
        <Box sx={{ display: 'flex', flex: 1, minHeight: 0 }}>
          <FindingsGrid
            view={view}
            total={total}
            at={window.at}
            selected={selected}
            onSelect={setSelected}
            onOpen={open}
            onShown={onShown}
            onColumns={onColumns}
            onKeyDown={onKeyDown}
          />
          {current && (
            <FindingDetail
              finding={current}
              onMark={mark}
              onOpen={open}
              number={selected + 1}
              total={total}
            />
          )}
        </Box>
      )}
    </Box>
  );
}

function isUnfiltered({ status, kind, mark, text }: FindingsQuery): boolean {
  return status === '' && kind === '' && mark === '' && text === '';
}
