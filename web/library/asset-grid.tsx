import ArrowDownwardIcon from '@mui/icons-material/ArrowDownward';
import ArrowUpwardIcon from '@mui/icons-material/ArrowUpward';
import { Box, ButtonBase, Typography } from '@mui/material';
import { useCallback, useEffect, useMemo, useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { ItemGrid } from '../lists/item-grid.tsx';
import type { Extent } from '../lists/steps.ts';
import { AssetCard, cardsLook, type ItemActions } from './asset-card.tsx';
import { AssetRow, chooseBy, FolderCard, FolderRow, type ItemProps } from './asset-items.tsx';
import { figureText, fittingColumns, rowTemplate, type Column } from './columns.ts';
import type { Contents, LibraryAsset } from './use-contents.ts';

const rowHeight = 32;
const cardWidth = 164;
const cardHeight = 178;

export interface GridProps extends Omit<ItemProps, 'index'> {
  contents: Contents;
  isSheet: boolean;
  sort: string;
  isDescending: boolean;
  onSort: (sort: string) => void;
  onKeyDown: (event: KeyboardEvent, extent: Extent) => void;
}

/** Folders and assets as table or as contact sheet. */
export function AssetGrid(given: GridProps): ReactNode {
  const { contents, isSheet, selection, onKeyDown } = given;
  const [width, setWidth] = useState(1000);
  const props = { ...given, columns: fittingColumns(given.columns, width) };
  const { load, folders } = contents;
  const actions = useItemActions(given);
  const onShown = useCallback(
    (first: number, last: number): void => void load(first - folders.length, last - folders.length),
    [load, folders],
  );
  return (
    <ItemGrid
      label="Contents"
      pattern="grid"
      count={folders.length + contents.total}
      itemWidth={isSheet ? cardWidth : null}
      itemHeight={isSheet ? cardHeight : rowHeight}
      active={selection.active}
      activeId={`row-${selection.active}`}
      {...(!isSheet && { head: (gutter: number) => <Head {...props} gutter={gutter} /> })}
      onShown={onShown}
      onKeyDown={onKeyDown}
      onWidth={setWidth}
      look={isSheet ? cardsLook : undefined}
      renderItem={(index) => <Item {...props} index={index} actions={actions} />}
    />
  );
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
        sx={{
          display: 'grid',
          gridTemplateColumns: rowTemplate(columns),
          gap: 1,
          px: 1,
          alignItems: 'center',
        }}
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

function Item(props: GridProps & { index: number; actions: ItemActions }): ReactNode {
  const { contents, index, isSheet, selection, columns, actions, assetTo } = props;
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
  return isSheet ? (
    <AssetCard
      {...{ asset, index, actions }}
      to={assetTo(asset)}
      figure={firstFigure(asset, columns)}
      isActive={selection.active === index}
      isChosen={selection.paths.has(asset.path)}
    />
  ) : (
    <AssetRow {...props} asset={asset} />
  );
}

/** The first of its figures that it has; its kind where it has none. */
function firstFigure(asset: LibraryAsset, columns: readonly Column[]): string {
  for (const { name, isNumber, label, text } of columns) {
    const figure = isNumber && name !== 'size' ? figureText(text(asset), label) : '';
    if (figure !== '') return figure;
  }
  return asset.kind;
}

/** What may be done with an asset, as it is by then; the same functions each time. */
function useItemActions({ selection, onOpen }: Pick<GridProps, 'selection' | 'onOpen'>): ItemActions {
  const latest = useRef({ selection, onOpen });
  useEffect(() => {
    latest.current = { selection, onOpen };
  });
  return useMemo(
    () => ({
      point: (event, index, path) => chooseBy(event, latest.current.selection, index, path),
      toggle: (index, path) => latest.current.selection.toggle(index, path),
      open: (index) => latest.current.onOpen(index),
    }),
    [],
  );
}
