import ArrowDownwardIcon from '@mui/icons-material/ArrowDownward';
import ArrowUpwardIcon from '@mui/icons-material/ArrowUpward';
import FolderOutlinedIcon from '@mui/icons-material/FolderOutlined';
import Inventory2OutlinedIcon from '@mui/icons-material/Inventory2Outlined';
import { Box, ButtonBase, Checkbox, Link as MuiLink, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import {
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type MouseEvent,
  type ReactNode,
} from 'react';
import { Link } from 'react-router';
import type { Folder } from '../../contract/assets.ts';
import { bytesText } from '../../core/figures.ts';
import { Preview } from './assets/preview.tsx';
import { PathText, nameOf } from '../ui/path-text.tsx';
import type { Column } from './columns.ts';
import { changeText, kindsText } from './counts-text.ts';
import type { Contents, LibraryAsset } from './use-contents.ts';
import type { Selection } from './use-selection.ts';

/** A million rows have to fit into the tallest element that browsers make, of some 33 million pixels. */
const rowHeight = 32;
const tallestRows = 1_000_000;
const cardWidth = 164;
const cardHeight = 178;

export interface GridProps {
  contents: Contents;
  columns: readonly Column[];
  isSheet: boolean;
  /** Whether rows show whole paths. */
  hasPaths: boolean;
  sort: string;
  isDescending: boolean;
  onSort: (sort: string) => void;
  selection: Selection;
  folderTo: (path: string) => string;
  assetTo: (asset: LibraryAsset) => string;
  onOpen: (index: number) => void;
  onKeyDown: (event: KeyboardEvent, columnCount: number) => void;
}

/** Folders and assets as table or as contact sheet: only those in view are in the page, however many there are. */
export function AssetGrid(given: GridProps): ReactNode {
  const { contents, isSheet, selection, onKeyDown } = given;
  const scroller = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(1000);
  const props = { ...given, columns: fittingColumns(given.columns, width) };
  // What a scroll bar takes, the head leaves free.
  const [gutter, setGutter] = useState(0);
  useLayoutEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(() => {
      setWidth(element.clientWidth);
      setGutter(element.offsetWidth - element.clientWidth);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const perRow = isSheet ? Math.max(1, Math.floor((width - 16) / cardWidth)) : 1;
  const count = Math.min(contents.folders.length + contents.total, tallestRows * perRow);
  const virtual = useVirtualizer({
    count: Math.ceil(count / perRow),
    getScrollElement: () => scroller.current,
    estimateSize: () => (isSheet ? cardHeight : rowHeight),
    overscan: 6,
  });
  const items = virtual.getVirtualItems();
  const first = (items[0]?.index ?? 0) * perRow - contents.folders.length;
  const last = ((items.at(-1)?.index ?? 0) + 1) * perRow - contents.folders.length;
  const { load } = contents;
  useEffect(() => void load(first, last), [load, first, last]);
  const { active } = selection;
  useEffect(() => {
    virtual.scrollToIndex(Math.floor(active / perRow));
  }, [active, perRow, virtual]);
  return (
    <Box
      role="grid"
      aria-label="Contents"
      aria-rowcount={Math.ceil(count / perRow) + (isSheet ? 0 : 1)}
      aria-multiselectable
      tabIndex={0}
      aria-activedescendant={`row-${active}`}
      onKeyDown={(event) => {
        // Buttons of the head have their own use for keys.
        const isButton = event.target instanceof HTMLElement && event.target.closest('button') !== null;
        if (!isButton) onKeyDown(event, perRow);
      }}
      sx={{
        flex: 1,
        minHeight: 0,
        display: 'flex',
        flexDirection: 'column',
        '&:focus-visible': { outline: 'none' },
        '&:focus-visible [data-active="true"]': { outline: '2px solid var(--accent)', outlineOffset: -2 },
      }}
    >
      {!isSheet && <Head {...props} gutter={gutter} />}
      <Box ref={scroller} role="rowgroup" sx={{ flex: 1, overflow: 'auto', minHeight: 0, contain: 'strict' }}>
        <Box role="presentation" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {items.map(({ index, start, key, size }) => (
            <Box
              key={key}
              role="row"
              aria-rowindex={index + (isSheet ? 1 : 2)}
              style={{ transform: `translateY(${start}px)`, height: size }}
              sx={{ position: 'absolute', top: 0, left: 0, right: 0, display: 'flex', px: isSheet ? 1 : 0 }}
            >
              {Array.from({ length: Math.min(perRow, count - index * perRow) }, (_, place) => (
                <Item key={place} {...props} index={index * perRow + place} />
              ))}
            </Box>
          ))}
        </Box>
      </Box>
    </Box>
  );
}

const leastNameWidth = 180;
const boxesWidth = 34 + 40;
const columnGap = 8;

/** As many of the columns as leave room for names; on a phone none. */
function fittingColumns(columns: readonly Column[], width: number): readonly Column[] {
  let left = width - boxesWidth - leastNameWidth - 4 * columnGap;
  let count = 0;
  for (const { widthPixels } of columns) {
    left -= widthPixels + columnGap;
    if (left < 0) break;
    count++;
  }
  return columns.slice(0, count);
}

function template(columns: readonly Column[]): string {
  return `34px 40px minmax(180px, 1fr) ${columns.map(({ widthPixels }) => `${widthPixels}px`).join(' ')}`;
}

function Head({
  columns,
  sort,
  isDescending,
  onSort,
  hasPaths,
  gutter,
}: GridProps & { gutter: number }): ReactNode {
  const heads = [
    { name: 'name', label: hasPaths ? 'Path' : 'Name', sort: hasPaths ? 'path' : 'name', isNumber: false },
    ...columns,
  ];
  return (
    <Box role="rowgroup" sx={{ borderBottom: 1, borderColor: 'divider', pr: `${gutter}px` }}>
      <Box
        role="row"
        aria-rowindex={1}
        sx={{ display: 'grid', gridTemplateColumns: template(columns), gap: 1, px: 1, alignItems: 'center' }}
      >
        <span role="columnheader" aria-label="Chosen" />
        <span role="columnheader" aria-label="Preview" />
        {heads.map((column) => {
          const isSorted = sort === column.sort || (sort === 'path' && column.name === 'name');
          return (
            <Box
              key={column.name}
              role="columnheader"
              aria-sort={isSorted ? (isDescending ? 'descending' : 'ascending') : 'none'}
              sx={{ textAlign: column.isNumber ? 'right' : 'left' }}
            >
              <ButtonBase
                onClick={() => onSort(column.sort)}
                sx={{
                  font: 'inherit',
                  fontSize: '0.8rem',
                  color: 'text.secondary',
                  fontWeight: isSorted ? 700 : 400,
                  gap: 0.25,
                }}
              >
                {column.label}
                {isSorted &&
                  (isDescending ? (
                    <ArrowDownwardIcon sx={{ fontSize: 13 }} />
                  ) : (
                    <ArrowUpwardIcon sx={{ fontSize: 13 }} />
                  ))}
              </ButtonBase>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

function Item(props: GridProps & { index: number }): ReactNode {
  const { contents, index, isSheet } = props;
  const folder = contents.folders[index];
  if (folder)
    return isSheet ? <FolderCard {...props} folder={folder} /> : <FolderRow {...props} folder={folder} />;
  const asset = contents.at(index - contents.folders.length);
  if (!asset)
    return (
      <Typography role="gridcell" variant="caption" sx={{ px: 2, color: 'text.secondary' }}>
        Loading…
      </Typography>
    );
  return isSheet ? <AssetCard {...props} asset={asset} /> : <AssetRow {...props} asset={asset} />;
}

type FolderItem = GridProps & { index: number; folder: Folder['folders'][number] };
type AssetItem = GridProps & { index: number; asset: LibraryAsset };

function FolderMark({ isContainer }: { isContainer: boolean }): ReactNode {
  return isContainer ? (
    <Inventory2OutlinedIcon fontSize="small" aria-label="archive" />
  ) : (
    <FolderOutlinedIcon fontSize="small" aria-label="folder" />
  );
}

const rowLook = {
  flex: 1,
  minWidth: 0,
  gap: 1,
  px: 1,
  alignItems: 'center',
  borderBottom: 1,
  borderColor: 'divider',
} as const;

function FolderRow({ folder, index, selection, folderTo }: FolderItem): ReactNode {
  const { counts } = folder;
  return (
    <Box
      id={`row-${index}`}
      role="gridcell"
      data-active={selection.active === index}
      sx={{
        ...rowLook,
        display: 'grid',
        gridTemplateColumns: '34px 40px minmax(160px, 0.6fr) 1fr 150px 84px',
      }}
    >
      <span />
      <FolderMark isContainer={folder.isContainer} />
      <MuiLink
        component={Link}
        to={folderTo(folder.path)}
        underline="hover"
        color="inherit"
        tabIndex={-1}
        sx={{ minWidth: 0 }}
      >
        <strong>
          <PathText path={folder.name} />
        </strong>
      </MuiLink>
      <Typography variant="body2" color="text.secondary" noWrap title={kindsText(counts)}>
        {kindsText(counts, 3)}
      </Typography>
      <Typography variant="body2" noWrap sx={{ textAlign: 'right' }}>
        {changeText(counts)}
      </Typography>
      <Typography
        variant="body2"
        component="span"
        sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}
      >
        {bytesText(counts.bytes)}
      </Typography>
    </Box>
  );
}

function chooser({ index, selection }: AssetItem, path: string) {
  return (event: MouseEvent): void => {
    if (event.shiftKey) void selection.extendTo(index);
    else if (event.ctrlKey || event.metaKey) selection.toggle(index, path);
    else selection.moveTo(index);
  };
}

function AssetRow(item: AssetItem): ReactNode {
  const { asset, index, columns, selection, hasPaths, assetTo, onOpen } = item;
  const isChosen = selection.paths.has(asset.path);
  return (
    <Box
      id={`row-${index}`}
      role="gridcell"
      data-active={selection.active === index}
      aria-selected={isChosen}
      onClick={chooser(item, asset.path)}
      onDoubleClick={() => onOpen(index)}
      sx={{
        ...rowLook,
        display: 'grid',
        gridTemplateColumns: template(columns),
        bgcolor: isChosen ? 'plate' : undefined,
        cursor: 'default',
      }}
    >
      <Checkbox
        size="small"
        checked={isChosen}
        tabIndex={-1}
        slotProps={{ input: { 'aria-label': `Choose ${nameOf(asset.path)}` } }}
        onClick={(event) => event.stopPropagation()}
        onChange={() => selection.toggle(index, asset.path)}
        sx={{ p: 0 }}
      />
      <Plated asset={asset} height={28} />
      <Box sx={{ minWidth: 0, lineHeight: 1.15 }} title={asset.why}>
        <MuiLink component={Link} to={assetTo(asset)} underline="hover" color="inherit" tabIndex={-1}>
          <PathText path={hasPaths ? asset.path : nameOf(asset.path)} />
        </MuiLink>
        {asset.why && (
          <Typography
            variant="caption"
            component="div"
            color="text.secondary"
            noWrap
            sx={{ lineHeight: 1.1, fontSize: '0.7rem' }}
          >
            {asset.why}
          </Typography>
        )}
      </Box>
      {columns.map(({ name, text, isNumber }) => (
        <Typography
          key={name}
          variant="body2"
          component="span"
          noWrap
          sx={{ textAlign: isNumber ? 'right' : 'left', fontVariantNumeric: 'tabular-nums' }}
        >
          {text(asset)}
        </Typography>
      ))}
    </Box>
  );
}

function Plated({ asset, height }: { asset: LibraryAsset; height: number | string }): ReactNode {
  return (
    <Box
      sx={{
        height,
        bgcolor: 'plate',
        display: 'flex',
        alignItems: 'center',
        justifyContent: 'center',
        overflow: 'hidden',
      }}
    >
      <Preview
        hash={asset.hash}
        format={asset.format}
        facts={null}
        hasPreview={asset.hasPreview}
        kind={asset.kind}
        isSmall
      />
    </Box>
  );
}

const cardLook = { width: cardWidth, p: 0.5, minWidth: 0 } as const;
const cardFrame = {
  height: '100%',
  border: 1,
  bgcolor: 'background.paper',
  display: 'flex',
  flexDirection: 'column',
} as const;

function FolderCard({ folder, index, selection, folderTo }: FolderItem): ReactNode {
  return (
    <Box role="gridcell" id={`row-${index}`} sx={cardLook}>
      <Box
        data-active={selection.active === index}
        sx={{ ...cardFrame, borderColor: 'divider', p: 1, gap: 0.5 }}
      >
        <FolderMark isContainer={folder.isContainer} />
        <MuiLink component={Link} to={folderTo(folder.path)} color="inherit" tabIndex={-1} underline="hover">
          <strong>
            <PathText path={folder.name} />
          </strong>
        </MuiLink>
        <Typography variant="caption" color="text.secondary">
          {kindsText(folder.counts, 3)}
        </Typography>
        <Typography variant="caption">
          {[changeText(folder.counts), bytesText(folder.counts.bytes)].filter(Boolean).join('; ')}
        </Typography>
      </Box>
    </Box>
  );
}

function AssetCard(item: AssetItem): ReactNode {
  const { asset, index, columns, selection, assetTo, onOpen } = item;
  const isChosen = selection.paths.has(asset.path);
  const figures = columns
    .filter(({ name, isNumber }) => isNumber && name !== 'size')
    .flatMap(({ label, text }) => (text(asset) === '' ? [] : [`${text(asset)} ${label.toLowerCase()}`]));
  return (
    <Box
      role="gridcell"
      id={`row-${index}`}
      aria-selected={isChosen}
      onClick={chooser(item, asset.path)}
      onDoubleClick={() => onOpen(index)}
      sx={cardLook}
    >
      <Box
        data-active={selection.active === index}
        sx={{ ...cardFrame, borderColor: isChosen ? 'primary.main' : 'divider', position: 'relative' }}
      >
        <Plated asset={asset} height={112} />
        <Checkbox
          size="small"
          checked={isChosen}
          tabIndex={-1}
          slotProps={{ input: { 'aria-label': `Choose ${nameOf(asset.path)}` } }}
          onClick={(event) => event.stopPropagation()}
          onChange={() => selection.toggle(index, asset.path)}
          sx={{ position: 'absolute', top: 0, right: 0, p: 0.25 }}
        />
        <Box sx={{ px: 0.75, py: 0.25, minWidth: 0, lineHeight: 1.2 }}>
          <MuiLink component={Link} to={assetTo(asset)} color="inherit" tabIndex={-1} underline="hover">
            <PathText path={nameOf(asset.path)} />
          </MuiLink>
          <Typography
            variant="caption"
            component="div"
            color="text.secondary"
            noWrap
            sx={{ lineHeight: 1.2 }}
          >
            {figures[0] ?? asset.kind}
          </Typography>
        </Box>
      </Box>
    </Box>
  );
}
