import { Box } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import type { Finding } from '../../../contract/findings.ts';
import { FindingCard, FindingRow, cardHeight, cardWidth, rowHeight } from './finding-items.tsx';
import type { View } from './use-filters.ts';

interface Props {
  view: View;
  total: number;
  at: (index: number) => Finding | undefined;
  selected: number;
  isChosen: (index: number) => boolean;
  onSelect: (index: number, isFurther: boolean) => void;
  onOpen: () => void;
  onShown: (first: number, last: number) => void;
  onColumns: (count: number) => void;
  onKeyDown: (event: KeyboardEvent) => void;
}

/** Findings as contact sheet or table. Only what is in view exists, however many there are. */
export function FindingsGrid({
  view,
  total,
  at,
  selected,
  isChosen,
  onSelect,
  onOpen,
  onShown,
  onColumns,
  onKeyDown,
}: Props): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    setWidth(element.clientWidth);
    // Keys go to the list from the start, and never away from where somebody is.
    if (document.activeElement === document.body) element.focus({ preventScroll: true });
    return () => observer.disconnect();
  }, []);
  const columns = view === 'table' ? 1 : Math.max(1, Math.floor((width - 16) / cardWidth));
  const rows = Math.ceil(total / columns);
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => (view === 'table' ? rowHeight : cardHeight),
    overscan: 3,
  });
  const items = virtual.getVirtualItems();
  const first = (items[0]?.index ?? 0) * columns;
  const last = Math.min(total - 1, ((items.at(-1)?.index ?? 0) + 1) * columns - 1);
  useEffect(() => {
    onShown(first, last);
  }, [first, last, onShown]);
  useEffect(() => {
    onColumns(columns);
  }, [columns, onColumns]);
  useEffect(() => {
    virtual.scrollToIndex(Math.floor(selected / columns));
  }, [selected, columns, virtual]);

  return (
    <Box
      ref={scroller}
      role="listbox"
      aria-label="Findings"
      aria-multiselectable
      aria-activedescendant={`finding-${selected}`}
      tabIndex={0}
      onKeyDown={onKeyDown}
      sx={{
        flex: 1,
        minWidth: 0,
        overflow: 'auto',
        contain: 'strict',
        // The focus stands on the finding that is selected.
        '&:focus-visible': { outline: 'none' },
        '&:focus-visible [data-current="true"]': {
          outline: '2px solid var(--accent)',
          outlineOffset: view === 'table' ? -2 : -7,
        },
      }}
    >
      <Box sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {items.map((row) => (
          <Box
            key={row.key}
            role="presentation"
            style={{ transform: `translateY(${row.start}px)`, height: row.size }}
            sx={{
              position: 'absolute',
              top: 0,
              left: 0,
              right: 0,
              display: 'flex',
              px: view === 'table' ? 0 : 1,
              '& > *': { display: 'flex' },
            }}
          >
            {Array.from({ length: Math.min(columns, total - row.index * columns) }, (_, column) => {
              const index = row.index * columns + column;
              const item = {
                finding: at(index),
                index,
                isSelected: index === selected,
                isChosen: isChosen(index),
                onSelect: (isFurther: boolean) => onSelect(index, isFurther),
                onOpen,
              };
              return (
                <Box key={index} role="presentation" sx={{ width: `${100 / columns}%` }}>
                  {view === 'table' ? (
                    <FindingRow {...item} total={total} />
                  ) : (
                    <FindingCard {...item} total={total} />
                  )}
                </Box>
              );
            })}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
