import { Box, type SxProps, type Theme } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useLayoutEffect, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import type { Extent } from './steps.ts';

/** A million rows of 32 pixels have to fit into the tallest element that browsers make, of some 33 million pixels. */
const mostRows = 1_000_000;
const sidePixels = 16;

interface Props {
  label: string;
  /** How it presents itself to assistive programs: options of a list, or cells of a table. */
  pattern: 'listbox' | 'grid';
  /** Items, however many: only those in view are in the page. */
  count: number;
  /** The least width of an item in pixels, where several stand in a row; null where each has a row of its own. */
  itemWidth: number | null;
  itemHeight: number;
  /** The item that keys work on: it is kept in view. */
  active: number;
  /** The `id` in the page of the item that keys work on. */
  activeId: string;
  /** How its items look, where that is said once for all of them. */
  look?: SxProps<Theme> | undefined;
  /** What stands above the rows. @param gutterPixels what a scroll bar takes from them */
  head?: (gutterPixels: number) => ReactNode;
  /** @param first @param last items that are in the page now, or just outside of it */
  onShown: (first: number, last: number) => void;
  onKeyDown: (event: KeyboardEvent, extent: Extent) => void;
  /** Hears how many pixels the rows have. */
  onWidth?: (pixels: number) => void;
  renderItem: (index: number) => ReactNode;
}

/** Items as contact sheet or as rows, with one of them for the keys. */
export function ItemGrid({
  label,
  pattern,
  itemWidth,
  itemHeight,
  active,
  activeId,
  look,
  head,
  onShown,
  onKeyDown,
  onWidth,
  renderItem,
  ...given
}: Props): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const [{ width, gutter }, setSize] = useState({ width: 1000, gutter: 0 });
  // With a head or without one, another element is scrolled.
  const isHeaded = head !== undefined;
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const measure = (): void =>
      setSize({ width: element.clientWidth, gutter: element.offsetWidth - element.clientWidth });
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    measure();
    // Keys go to the list from the start, and never away from where somebody is.
    if (document.activeElement === document.body)
      element.closest<HTMLElement>('[tabindex="0"]')?.focus({ preventScroll: true });
    return () => observer.disconnect();
  }, [isHeaded]);
  const perRow = itemWidth === null ? 1 : Math.max(1, Math.floor((width - sidePixels) / itemWidth));
  const count = Math.min(given.count, mostRows * perRow);
  const rows = Math.ceil(count / perRow);
  const virtual = useVirtualizer({
    count: rows,
    getScrollElement: () => scroller.current,
    estimateSize: () => itemHeight,
    overscan: 4,
  });
  const shown = virtual.getVirtualItems();
  const first = (shown[0]?.index ?? 0) * perRow;
  const last = Math.max(0, Math.min(count, ((shown.at(-1)?.index ?? 0) + 1) * perRow) - 1);
  useEffect(() => onShown(first, last), [first, last, onShown]);
  useEffect(() => onWidth?.(width), [width, onWidth]);
  useEffect(() => {
    virtual.scrollToIndex(Math.floor(active / perRow));
  }, [active, perRow, virtual]);
  const isGrid = pattern === 'grid';
  const headRows = head ? 1 : 0;
  const rowsInPage = (): number =>
    Math.max(1, Math.floor((scroller.current?.clientHeight ?? 0) / itemHeight));
  const operated = {
    role: pattern,
    'aria-label': label,
    'aria-rowcount': isGrid ? rows + headRows : undefined,
    'aria-multiselectable': true,
    'aria-activedescendant': activeId,
    tabIndex: 0,
    onKeyDown: (event: KeyboardEvent): void => {
      // Buttons of the head have their own use for keys.
      const isButton = event.target instanceof HTMLElement && event.target.closest('button') !== null;
      if (!isButton) onKeyDown(event, { perRow, perPage: perRow * rowsInPage() });
    },
  };
  const body = (
    <Box
      role="presentation"
      style={{ height: virtual.getTotalSize() }}
      sx={[bodyLook, ...[look ?? {}].flat()]}
    >
      {shown.map(({ index, start, key, size }) => (
        <div
          key={key}
          className="line"
          role={isGrid ? 'row' : 'presentation'}
          aria-rowindex={isGrid ? index + 1 + headRows : undefined}
          style={{
            ...{ transform: `translateY(${start}px)`, height: size },
            padding: itemWidth === null ? 0 : `0 ${sidePixels / 2}px`,
          }}
        >
          {Array.from({ length: Math.min(perRow, count - index * perRow) }, (_, place) => (
            <div key={place} className="place" role="presentation" style={{ width: `${100 / perRow}%` }}>
              {renderItem(index * perRow + place)}
            </div>
          ))}
        </div>
      ))}
    </Box>
  );
  if (!head)
    return (
      <Box ref={scroller} {...operated} sx={{ ...scrolled, ...focused }}>
        {body}
      </Box>
    );
  return (
    <Box
      {...operated}
      sx={{ flex: 1, minWidth: 0, minHeight: 0, display: 'flex', flexDirection: 'column', ...focused }}
    >
      {head(gutter)}
      <Box ref={scroller} role="rowgroup" sx={scrolled}>
        {body}
      </Box>
    </Box>
  );
}

/** Of lines and places there are hundreds: how they look is said once. */
const bodyLook = {
  position: 'relative',
  '& > .line': { position: 'absolute', top: 0, left: 0, right: 0, display: 'flex' },
  '& > .line > .place': { minWidth: 0, display: 'flex' },
} as const;

const scrolled = { flex: 1, minWidth: 0, minHeight: 0, overflow: 'auto', contain: 'strict' } as const;

/** The focus stands on the item that keys work on. */
const focused = {
  '&:focus-visible': { outline: 'none' },
  '&:focus-visible [data-active="true"]': { outline: '2px solid var(--accent)', outlineOffset: -2 },
} as const;
