import { Box, Button, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import type { ComparedStates } from '../../../contract/assets.ts';
import { writePatch } from '../../../core/kinds/text/compare/write-patch.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { save } from '../../ui/save.ts';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { useTextQuery } from '../../viewer/assets-api.ts';
import { Toolbar } from '../../viewer/toolbar.tsx';
import type { LinesAnswer, LinesRequest, ShownRow, Words } from './lines-worker.ts';
import { useWay } from './use-way.ts';
import { Ways } from './ways.tsx';

/** Two texts side by side or in one column, with the words that differ; or their values by key. */
export default function TextCompare({ states }: { states: ComparedStates }): ReactNode {
  const detail = states.comparison?.detail?.kind === 'text' ? states.comparison.detail : null;
  const hasValues = (detail?.values?.length ?? 0) > 0;
  const [way, setWay] = useWay('way', hasValues ? ['values', 'side', 'column'] : ['side', 'column']);
  const ways = (
    [
      ['values', 'Values'],
      ['side', 'Side by side'],
      ['column', 'One column'],
    ] as const
  ).filter(([name]) => hasValues || name !== 'values');
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Toolbar label="Ways of looking">
        <Ways ways={ways} chosen={way} onChoose={setWay} />
        <Box sx={{ flex: 1 }} />
        <SavePatch states={states} />
      </Toolbar>
      {way === 'values' && detail?.values ? (
        <Values values={detail.values} total={detail.valuesTotal} />
      ) : (
        <Lines states={states} isOneColumn={way === 'column'} />
      )}
    </Box>
  );
}

/** Saves what changed in a form that other programs apply. */
function SavePatch({ states: { old, new: now } }: { states: ComparedStates }): ReactNode {
  const before = useTextQuery(old.hash ?? '');
  const after = useTextQuery(now.hash ?? '');
  const { enqueueSnackbar } = useSnackbar();
  if (!before.data || !after.data || before.data.truncated || after.data.truncated) return null;
  const [oldText, newText] = [before.data.text, after.data.text];
  const saveChanges = (): void => {
    try {
      const isJson = old.format === 'json' && now.format === 'json';
      const { extension, mediaType, text } = writePatch(
        isJson ? 'json' : 'plain',
        { path: old.path, text: oldText },
        { path: now.path, text: newText },
      );
      save(new Blob([text], { type: mediaType }), `${nameOf(now.path)}.${extension}`);
    } catch (error) {
      enqueueSnackbar(error instanceof Error ? error.message : String(error), { variant: 'error' });
    }
  };
  return (
    <Button onClick={saveChanges}>{now.format === 'json' ? 'Save as JSON patch' : 'Save as diff'}</Button>
  );
}

type ValueChanges = NonNullable<
  Extract<NonNullable<NonNullable<ComparedStates['comparison']>['detail']>, { kind: 'text' }>['values']
>;

function Values({ values, total }: { values: ValueChanges; total: number }): ReactNode {
  return (
    <Box
      tabIndex={0}
      role="region"
      aria-label="Values"
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}
    >
      <Box
        component="table"
        sx={{
          width: '100%',
          borderCollapse: 'collapse',
          fontSize: '0.88rem',
          '& td, & th': {
            textAlign: 'left',
            verticalAlign: 'top',
            borderBottom: 1,
            borderColor: 'divider',
            py: 0.4,
            pr: 1.5,
            overflowWrap: 'anywhere',
          },
        }}
      >
        <thead>
          <tr>
            <th scope="col">Status</th>
            <th scope="col">Key</th>
            <th scope="col">Before</th>
            <th scope="col">After</th>
          </tr>
        </thead>
        <tbody>
          {values.map(({ key, status, old, new: now }) => (
            <tr key={`${status} ${key}`}>
              <td>{status}</td>
              <td className="path">{key}</td>
              <td>{old}</td>
              <td>{now}</td>
            </tr>
          ))}
        </tbody>
      </Box>
      {total > values.length && (
        <Typography color="text.secondary">{`and ${(total - values.length).toLocaleString('en')} more`}</Typography>
      )}
    </Box>
  );
}

function Lines({ states, isOneColumn }: { states: ComparedStates; isOneColumn: boolean }): ReactNode {
  const old = useTextQuery(states.old.hash ?? '');
  const now = useTextQuery(states.new.hash ?? '');
  const [rows, setRows] = useState<readonly ShownRow[] | null>(null);
  const [before, after] = [old.data?.text, now.data?.text];
  useEffect(() => {
    if (before === undefined || after === undefined) return;
    const worker = new Worker(new URL('./lines-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<LinesAnswer>) => setRows(data.rows);
    worker.postMessage({ old: before, now: after, isOneColumn } satisfies LinesRequest);
    return () => worker.terminate();
  }, [before, after, isOneColumn]);
  const error = old.error ?? now.error;
  if (error) return <Failure text={failureText(error)} />;
  if (!rows) return <Loading what="what differs in the texts" />;
  const isCut = (old.data?.truncated ?? false) || (now.data?.truncated ?? false);
  return (
    <>
      {isCut && <Typography sx={{ px: 2, py: 0.5 }}>Only the first mebibyte of each is shown.</Typography>}
      <Rows rows={rows} isOneColumn={isOneColumn} />
    </>
  );
}

const rowHeight = 20;

function Rows({ rows, isOneColumn }: { rows: readonly ShownRow[]; isOneColumn: boolean }): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 20,
  });
  const firstChange = useMemo(() => rows.findIndex(({ status }) => status !== 'same'), [rows]);
  useEffect(() => {
    if (firstChange > 5) virtual.scrollToIndex(firstChange - 3, { align: 'start' });
  }, [firstChange, virtual]);
  return (
    <Box
      ref={scroller}
      tabIndex={0}
      role="region"
      aria-label="Lines"
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', bgcolor: 'background.paper' }}
    >
      <Box sx={{ height: virtual.getTotalSize(), position: 'relative', minWidth: 'max-content' }}>
        {virtual.getVirtualItems().map(({ index, start, key }) => {
          const row = rows[index];
          if (!row) return null;
          return (
            <Box
              key={key}
              className="path"
              style={{ transform: `translateY(${start}px)` }}
              sx={{
                position: 'absolute',
                top: 0,
                left: 0,
                right: 0,
                height: rowHeight,
                whiteSpace: 'pre',
                display: 'flex',
              }}
            >
              {isOneColumn ? (
                <Half
                  numbers={[row.oldNumber, row.newNumber]}
                  words={row.new ?? row.old}
                  status={row.old === null ? 'added' : row.new === null ? 'gone' : 'same'}
                  width="100%"
                />
              ) : (
                <>
                  <Half
                    numbers={[row.oldNumber]}
                    words={row.old}
                    status={row.status === 'same' ? 'same' : 'gone'}
                    width="50%"
                  />
                  <Half
                    numbers={[row.newNumber]}
                    words={row.new}
                    status={row.status === 'same' ? 'same' : 'added'}
                    width="50%"
                  />
                </>
              )}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

const signs = { same: ' ', added: '+', gone: '−' } as const;

function Half({
  numbers,
  words,
  status,
  width,
}: {
  numbers: readonly (number | null)[];
  words: Words | null;
  status: keyof typeof signs;
  width: string;
}): ReactNode {
  const isOther = status !== 'same' && words !== null;
  return (
    <Box
      sx={{
        width,
        minWidth: width,
        overflow: 'hidden',
        display: 'flex',
        bgcolor: isOther ? 'plate' : 'transparent',
        borderLeft: isOther ? 3 : 0,
        pl: isOther ? 0 : '3px',
        borderColor: (theme) =>
          status === 'added' ? theme.palette.statuses.added : theme.palette.statuses.removed,
      }}
    >
      {numbers.map((number, at) => (
        <Box
          key={at}
          component="span"
          aria-hidden
          sx={{
            width: 44,
            flexShrink: 0,
            textAlign: 'right',
            pr: 1,
            color: 'text.secondary',
            userSelect: 'none',
          }}
        >
          {number ?? ''}
        </Box>
      ))}
      <span>{words === null ? '' : signs[status]}</span>
      {words?.map(({ text, isOther: isMarked }, at) => (
        <Box
          key={at}
          component={isMarked ? 'mark' : 'span'}
          sx={
            isMarked
              ? {
                  bgcolor: 'transparent',
                  color: 'inherit',
                  fontWeight: 700,
                  textDecoration: 'underline',
                  textDecorationThickness: 2,
                }
              : undefined
          }
        >
          {text}
        </Box>
      ))}
    </Box>
  );
}
