import { Box, ButtonBase, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, useState, type ReactNode } from 'react';
import { plural } from '../../../core/figures.ts';
import type { Table } from '../../../core/kinds/text/table.ts';
import { TextFilter } from '../../ui/text-filter.tsx';
import { Toolbar } from '../toolbar.tsx';
import { tableRows, type RowOrder } from './table-rows.ts';

const rowPixels = 26;
/** Of the even letters that cells are written in. */
const letterPixels = 8;
/** By so many letters columns are wide at most and at least. */
const [fewestLetters, mostLetters] = [4, 48];
/** Rows that say how wide columns are. */
const measuredRows = 300;

/** A table, sorted by a column and filtered by words. */
export function TableGrid({ table, children }: { table: Table; children?: ReactNode }): ReactNode {
  const [words, setWords] = useState('');
  const [order, setOrder] = useState<RowOrder | null>(null);
  const places = useMemo(() => tableRows(table.rows, words, order), [table, words, order]);
  const widths = useMemo(
    () =>
      table.columns.map((name, at) => {
        const cells = table.rows.slice(0, measuredRows).map((row) => row[at]?.length ?? 0);
        const letters = Math.min(mostLetters, Math.max(fewestLetters, name.length + 2, ...cells));
        return `${Math.ceil(letters * letterPixels) + 18}px`;
      }),
    [table],
  );
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: places.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowPixels,
    overscan: 20,
  });
  const columns = `64px ${widths.join(' ')}`;
  const sortBy = (column: number): void =>
    setOrder((before) => {
      if (before?.column !== column) return { column, isDown: false };
      return before.isDown ? null : { column, isDown: true };
    });
  return (
    <Box sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Toolbar label="Table">
        {children}
        <TextFilter value={words} onChange={setWords} label="Words in rows" name="Find rows" />
        <Typography role="status" variant="body2" color="text.secondary">
          {`${places.length < table.rows.length ? `${places.length.toLocaleString('en')} of ` : ''}${plural(table.rows.length, 'row')}, ${plural(table.columns.length, 'column')}`}
        </Typography>
      </Toolbar>
      <Box
        ref={scroller}
        tabIndex={0}
        role="table"
        aria-label="Table"
        aria-rowcount={places.length + 1}
        aria-colcount={table.columns.length + 1}
        sx={{ flex: 1, overflow: 'auto', bgcolor: 'background.paper', fontSize: '0.82rem' }}
      >
        <Box
          role="row"
          className="path"
          sx={{
            ...{ display: 'grid', gridTemplateColumns: columns, position: 'sticky', top: 0, zIndex: 1 },
            ...{
              bgcolor: 'background.default',
              borderBottom: 1,
              borderColor: 'divider',
              width: 'max-content',
            },
            minWidth: '100%',
          }}
        >
          <Cell isHead>Row</Cell>
          {table.columns.map((name, at) => (
            <Box
              key={at}
              role="columnheader"
              aria-sort={order?.column !== at ? 'none' : order.isDown ? 'descending' : 'ascending'}
              sx={{ minWidth: 0 }}
            >
              <ButtonBase
                onClick={() => sortBy(at)}
                title={name}
                sx={{
                  ...{
                    width: '100%',
                    px: 1,
                    height: rowPixels,
                    justifyContent: 'flex-start',
                    fontWeight: 700,
                  },
                  '&:focus-visible': {
                    outline: '2px solid',
                    outlineColor: 'primary.main',
                    outlineOffset: '-2px',
                  },
                }}
              >
                <Box
                  component="span"
                  sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
                >
                  {name}
                </Box>
                <Box component="span" aria-hidden sx={{ ml: 0.5 }}>
                  {order?.column !== at ? '' : order.isDown ? '▾' : '▴'}
                </Box>
              </ButtonBase>
            </Box>
          ))}
        </Box>
        <Box role="rowgroup" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start, key }) => {
            const place = places[index] ?? 0;
            return (
              <Box
                key={key}
                role="row"
                aria-rowindex={index + 2}
                className="path"
                style={{ transform: `translateY(${start}px)` }}
                sx={{
                  ...{ position: 'absolute', top: 0, left: 0, display: 'grid', gridTemplateColumns: columns },
                  '&:nth-of-type(even)': { bgcolor: 'background.default' },
                }}
              >
                <Cell isFaint>{(place + 1).toLocaleString('en')}</Cell>
                {table.columns.map((_, at) => (
                  <Cell key={at}>{table.rows[place]?.[at] ?? ''}</Cell>
                ))}
              </Box>
            );
          })}
        </Box>
      </Box>
    </Box>
  );
}

function Cell({
  isHead = false,
  isFaint = false,
  children,
}: {
  isHead?: boolean;
  isFaint?: boolean;
  children: ReactNode;
}): ReactNode {
  return (
    <Box
      role={isHead ? 'columnheader' : 'cell'}
      title={typeof children === 'string' && children.length > 20 ? children : undefined}
      sx={{
        ...{ px: 1, height: rowPixels, lineHeight: `${rowPixels}px`, minWidth: 0 },
        ...{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
        color: isFaint ? 'text.secondary' : 'text.primary',
        fontWeight: isHead ? 700 : 400,
      }}
    >
      {children}
    </Box>
  );
}
