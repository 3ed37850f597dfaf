import { Box } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';

/** A line of a tree that is shown, those above it before it. */
export interface TreeRow {
  key: string;
  depth: number;
  /** Whether there are lines below it, and whether these are shown; null where there are none. */
  isOpen: boolean | null;
}

const rowPixels = 28;

/** A tree of many lines: arrows go through it, open and close; enter chooses. */
export function TreeList<Row extends TreeRow>({
  label,
  rows,
  chosen,
  onChoose,
  onOpen,
  children,
}: {
  label: string;
  rows: readonly Row[];
  chosen: string | null;
  onChoose: (row: Row) => void;
  onOpen: (row: Row, isOpen: boolean) => void;
  children: (row: Row) => ReactNode;
}): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(0);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowPixels,
    overscan: 12,
    getItemKey: (index) => rows[index]?.key ?? index,
  });
  const place = chosen === null ? -1 : rows.findIndex(({ key }) => key === chosen);
  useEffect(() => {
    if (place < 0) return;
    setAt(place);
    virtual.scrollToIndex(place, { align: 'auto' });
    // Only where something else is chosen.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [chosen]);
  const current = Math.min(at, Math.max(0, rows.length - 1));
  const go = (index: number): void => {
    const next = Math.max(0, Math.min(rows.length - 1, index));
    setAt(next);
    virtual.scrollToIndex(next, { align: 'auto' });
  };
  const onKeyDown = (event: KeyboardEvent): void => {
    const row = rows[current];
    if (!row || event.ctrlKey || event.metaKey || event.altKey || event.target !== event.currentTarget)
      return;
    const actions: Partial<Record<string, () => void>> = {
      ArrowDown: () => go(current + 1),
      ArrowUp: () => go(current - 1),
      Home: () => go(0),
      End: () => go(rows.length - 1),
      ArrowRight: () => (row.isOpen === false ? onOpen(row, true) : go(current + 1)),
      ArrowLeft: () => {
        if (row.isOpen === true) onOpen(row, false);
        else
          for (let above = current - 1; above >= 0; above--)
            if ((rows[above]?.depth ?? 0) < row.depth) {
              go(above);
              break;
            }
      },
      Enter: () => onChoose(row),
      ' ': () => onChoose(row),
    };
    const action = actions[event.key];
    if (!action) return;
    action();
    event.preventDefault();
  };
  return (
    <Box
      ref={scroller}
      role="tree"
      tabIndex={0}
      aria-label={label}
      aria-activedescendant={rows[current] ? `tree-${label}-${current}` : undefined}
      onKeyDown={onKeyDown}
      sx={{ flex: 1, minHeight: 60, overflow: 'auto' }}
    >
      <Box sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start, key }) => {
          const row = rows[index];
          if (!row) return null;
          return (
            <Box
              key={key}
              id={`tree-${label}-${index}`}
              role="treeitem"
              aria-level={row.depth + 1}
              aria-selected={row.key === chosen}
              aria-setsize={rows.length}
              aria-posinset={index + 1}
              {...(row.isOpen !== null && { 'aria-expanded': row.isOpen })}
              onClick={() => {
                setAt(index);
                onChoose(row);
              }}
              style={{ transform: `translateY(${start}px)` }}
              sx={{
                ...{ position: 'absolute', top: 0, left: 0, right: 0, height: rowPixels, cursor: 'default' },
                ...{ display: 'flex', alignItems: 'center', gap: 0.5, pr: 1, pl: `${6 + row.depth * 14}px` },
                bgcolor: row.key === chosen ? 'plate' : 'transparent',
                outline: index === current ? '1px dotted' : 'none',
                outlineOffset: '-2px',
              }}
            >
              <Box
                component="span"
                aria-hidden
                onClick={(event) => {
                  if (row.isOpen === null) return;
                  event.stopPropagation();
                  onOpen(row, !row.isOpen);
                }}
                sx={{ width: 12, flexShrink: 0, color: 'text.secondary', fontSize: '0.7rem' }}
              >
                {row.isOpen === null ? '' : row.isOpen ? '▾' : '▸'}
              </Box>
              {children(row)}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
