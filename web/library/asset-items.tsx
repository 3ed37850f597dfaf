import FolderOutlinedIcon from '@mui/icons-material/FolderOutlined';
import Inventory2OutlinedIcon from '@mui/icons-material/Inventory2Outlined';
import { Box, Checkbox, Link as MuiLink, Typography, type SxProps } from '@mui/material';
import type { MouseEvent, ReactNode } from 'react';
import { Link } from 'react-router';
import type { Folder } from '../../contract/assets.ts';
import { bytesText } from '../../core/figures.ts';
import type { Selection } from '../lists/use-selection.ts';
import { PathText, nameOf } from '../ui/path-text.tsx';
import { PlatedPreview } from './plated-preview.tsx';
import { rowTemplate, type Column } from './columns.ts';
import { changeText, kindsText } from './counts-text.ts';
import type { LibraryAsset } from './use-contents.ts';

/** What a folder or an asset is shown with, in the place of the list where it stands. */
export interface ItemProps {
  index: number;
  columns: readonly Column[];
  /** Whether rows show whole paths. */
  hasPaths: boolean;
  selection: Selection;
  folderTo: (path: string) => string;
  assetTo: (asset: LibraryAsset) => string;
  onOpen: (index: number) => void;
}

type FolderItem = ItemProps & { folder: Folder['folders'][number] };
type AssetItem = ItemProps & { asset: LibraryAsset };

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

export function FolderRow({ folder, index, selection, folderTo }: FolderItem): ReactNode {
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

/** Chooses an asset that is clicked on: with others, or by itself. */
export function chooseBy(event: MouseEvent, selection: Selection, index: number, path: string): void {
  if (event.shiftKey) void selection.extendTo(index);
  else if (event.ctrlKey || event.metaKey) selection.toggle(index, path);
  else selection.moveTo(index);
}

export function AssetRow(item: AssetItem): ReactNode {
  const { asset, index, columns, selection, hasPaths, assetTo, onOpen } = item;
  const isChosen = selection.paths.has(asset.path);
  return (
    <Box
      id={`row-${index}`}
      role="gridcell"
      data-active={selection.active === index}
      aria-selected={isChosen}
      onClick={(event) => chooseBy(event, selection, index, asset.path)}
      onDoubleClick={() => onOpen(index)}
      sx={{
        ...rowLook,
        display: 'grid',
        gridTemplateColumns: rowTemplate(columns),
        bgcolor: isChosen ? 'plate' : undefined,
        cursor: 'default',
      }}
    >
      <Tick item={item} looks={{ p: 0 }} />
      <PlatedPreview of={asset} height={28} />
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

function Tick({ item, looks }: { item: AssetItem; looks: SxProps }): ReactNode {
  const { asset, index, selection } = item;
  return (
    <Checkbox
      size="small"
      checked={selection.paths.has(asset.path)}
      tabIndex={-1}
      slotProps={{ input: { 'aria-label': `Choose ${nameOf(asset.path)}` } }}
      onClick={(event) => event.stopPropagation()}
      onChange={() => selection.toggle(index, asset.path)}
      sx={looks}
    />
  );
}

const cardLook = { flex: 1, p: 0.5, minWidth: 0 } as const;
const cardFrame = {
  height: '100%',
  border: 1,
  bgcolor: 'background.paper',
  display: 'flex',
  flexDirection: 'column',
} as const;

export function FolderCard({ folder, index, selection, folderTo }: FolderItem): ReactNode {
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
