import FolderOutlinedIcon from '@mui/icons-material/FolderOutlined';
import Inventory2OutlinedIcon from '@mui/icons-material/Inventory2Outlined';
import { Box, Link as MuiLink, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useRef, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { AssetRow, Folder } from '../../contract/assets.ts';
import { bytesText, plural } from '../../core/findings/evidence.ts';
import { Preview } from '../assets/preview.tsx';
import { PathText, nameOf } from '../shell/path-text.tsx';
import { Empty } from '../shell/states.tsx';
import { assetPath, usePlace, viewPath, type Span } from '../shell/use-span.ts';

const rowHeight = 40;

interface RowsProps {
  span: Span;
  folders: Folder['folders'];
  assets: readonly (AssetRow & { why?: string })[];
  total: number;
  /** Whether there are more than were counted. */
  isCut?: boolean;
  hasPaths: boolean;
}

/** Folders, then assets: only those in view are in the page. */
export function Rows({ span, folders, assets, total, isCut = false, hasPaths }: RowsProps): ReactNode {
  const place = usePlace();
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: folders.length + assets.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 8,
  });
  if (folders.length + assets.length === 0)
    return <Empty title="Nothing here">No asset matches; take a word or a kind away.</Empty>;
  return (
    <>
      <Typography role="status" variant="body2" color="text.secondary" sx={{ px: 2, py: 0.5 }}>
        {`${folders.length > 0 ? `${plural(folders.length, 'folder')}, ` : ''}${isCut ? 'more than ' : ''}${plural(total, 'asset')}${total > assets.length ? `, the first ${assets.length} are shown` : ''}`}
      </Typography>
      <Box ref={scroller} role="list" aria-label="Contents" sx={{ flex: 1, overflow: 'auto', minHeight: 0 }}>
        <Box sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
          {virtual.getVirtualItems().map(({ index, start, key }) => {
            const folder = folders[index];
            const asset = assets[index - folders.length];
            return (
              <Box
                key={key}
                role="listitem"
                style={{ transform: `translateY(${start}px)` }}
                sx={{
                  position: 'absolute',
                  top: 0,
                  left: 0,
                  right: 0,
                  height: rowHeight,
                  px: 2,
                  borderBottom: 1,
                  borderColor: 'divider',
                }}
              >
                {folder && (
                  <FolderRow
                    folder={folder}
                    to={`${viewPath(place, 'library')}?to=${encodeURIComponent(span.to?.label ?? '')}&path=${encodeURIComponent(folder.path)}`}
                  />
                )}
                {!folder && asset && (
                  <AssetLine
                    asset={asset}
                    to={assetPath(place, span, asset.path, asset.build)}
                    hasPath={hasPaths}
                  />
                )}
              </Box>
            );
          })}
        </Box>
      </Box>
    </>
  );
}

const rowColumns = {
  display: 'grid',
  gridTemplateColumns: '40px minmax(0, 1fr) 90px 110px 100px',
  gap: 1.5,
  alignItems: 'center',
  height: '100%',
};

function FolderRow({ folder, to }: { folder: Folder['folders'][number]; to: string }): ReactNode {
  return (
    <MuiLink component={Link} to={to} underline="hover" color="inherit" sx={rowColumns}>
      {folder.isContainer ? (
        <Inventory2OutlinedIcon aria-label="archive" />
      ) : (
        <FolderOutlinedIcon aria-label="folder" />
      )}
      <strong className="path">{folder.name}</strong>
      <span>{folder.isContainer ? 'archive' : 'folder'}</span>
      <span>{plural(folder.files, 'file')}</span>
      <Box component="span" sx={{ textAlign: 'right' }}>
        {bytesText(folder.bytes)}
      </Box>
    </MuiLink>
  );
}

function AssetLine({
  asset,
  to,
  hasPath,
}: {
  asset: AssetRow & { why?: string };
  to: string;
  hasPath: boolean;
}): ReactNode {
  return (
    <MuiLink component={Link} to={to} underline="hover" color="inherit" sx={rowColumns}>
      <Box
        sx={{
          height: 34,
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
      <Box sx={{ minWidth: 0, lineHeight: 1.25 }}>
        <PathText path={hasPath ? asset.path : nameOf(asset.path)} />
        {asset.why && (
          <Typography variant="caption" component="div" color="text.secondary" noWrap>
            {asset.why}
          </Typography>
        )}
      </Box>
      <span>{asset.kind}</span>
      <span>{hasPath ? `build ${asset.build}` : asset.format}</span>
      <Box component="span" sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}>
        {bytesText(asset.size)}
      </Box>
    </MuiLink>
  );
}
