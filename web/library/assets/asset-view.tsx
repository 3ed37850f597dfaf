import { Tip } from '../../ui/tip.tsx';
import { paneRow, sidePane } from '../../ui/side-pane.ts';
import ContentCopyIcon from '@mui/icons-material/ContentCopy';
import DownloadIcon from '@mui/icons-material/Download';
import { Box, Button, IconButton, Link as MuiLink, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { lazy, Suspense, useDeferredValue, useEffect, type ComponentType, type ReactNode } from 'react';
import { Link, useSearchParams } from 'react-router';
import type { Asset } from '../../../contract/assets.ts';
import { FamilyPanel } from '../families/family-panel.tsx';
import { NamePanel } from '../names/name-panel.tsx';
import { LinksPanel } from '../references/links-panel.tsx';
import { failureText } from '../../ui/api.ts';
import { folderOf, nameOf, PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { assetPath, usePlace, useSpan, viewPath } from '../../ui/use-span.ts';
import { useCollecting } from '../collecting.tsx';
import { contentAddress } from '../../viewer/asset-addresses.ts';
import { useAssetQuery } from '../../viewer/assets-api.ts';
import { FactsList } from './facts-list.tsx';
import { Exhibit } from './exhibit.tsx';
import { History } from './history.tsx';
import { useNeighbours } from './use-neighbours.ts';

const LinkGraph = lazy(() => import('../references/link-graph.tsx'));

/** An asset that is still being read is asked for again so often. */
const unreadMs = 2000;

/** One thing: what it looks or sounds like, its facts, its history, its note. */
/** @param Publishing what the catalogue has of an asset: that room stands above this one */
export function AssetView({ Publishing }: { Publishing: ComponentType<{ asset: Asset }> }): ReactNode {
  const { channel } = usePlace();
  const span = useSpan();
  const [parameters] = useSearchParams();
  const path = parameters.get('path') ?? '';
  const build = span.to?.label ?? '';
  const {
    // Not what was shown before, as `data` would be: another asset is another page.
    currentData: asset,
    error,
    isFetching,
    refetch,
  } = useAssetQuery({ channel: channel.id, build, path }, { skip: build === '' || path === '' });
  // Also while the asset is loaded: whoever is quicker goes on.
  useNeighbours(channel.id, build, path);
  const isUnread = asset?.isUnread ?? false;
  useEffect(() => {
    if (!isUnread) return;
    const timer = setInterval(() => void refetch(), unreadMs);
    return () => clearInterval(timer);
  }, [isUnread, refetch]);
  if (path === '' || build === '')
    return <Empty title="No asset is chosen">Open one from the findings or from the library.</Empty>;
  if (!asset && isFetching) return <Loading what={nameOf(path)} />;
  if (error || !asset) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  return <AssetPage key={`${asset.build} ${asset.path}`} asset={asset} Publishing={Publishing} />;
}

function AssetPage({
  asset,
  Publishing,
}: {
  asset: Asset;
  Publishing: ComponentType<{ asset: Asset }>;
}): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [parameters, set] = useAddress();
  // The thing itself comes first: whoever goes through a folder does not wait for what is told of each.
  const isToldAll = useDeferredValue(true, false);
  const isGraph = parameters.get('show') === 'graph';
  const { enqueueSnackbar } = useSnackbar();
  const collecting = useCollecting({ channel: place.channel.id, build: asset.build });
  const copy = async (text: string): Promise<void> => {
    await navigator.clipboard.writeText(text);
    enqueueSnackbar(`Copied ${text}`);
  };
  const sheet = asset.facts && 'sheet' in asset.facts ? (asset.facts.sheet?.name ?? null) : null;
  const folder = folderOf(asset.path).replace(/(!?)\/$/, '');
  return (
    <Box sx={paneRow}>
      <Box sx={{ flex: { xs: '0 0 auto', md: 1 }, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <Box
          sx={{
            px: 2,
            py: 1,
            borderBottom: 1,
            borderColor: 'divider',
            display: 'flex',
            alignItems: 'center',
            gap: 1,
            flexWrap: 'wrap',
          }}
        >
          <Box sx={{ flex: 1, minWidth: 220 }}>
            <Typography
              variant="h1"
              sx={{ overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
            >
              {nameOf(asset.path)}
            </Typography>
            <MuiLink
              component={Link}
              to={`${viewPath(place, 'library')}?to=${encodeURIComponent(asset.build)}&path=${encodeURIComponent(folder)}`}
              underline="hover"
            >
              <PathText path={asset.path} />
            </MuiLink>
          </Box>
          <Toggle isOn={!isGraph} onClick={() => set({ show: '' }, { replace: false })}>
            Thing
          </Toggle>
          <Toggle isOn={isGraph} onClick={() => set({ show: 'graph' }, { replace: false })}>
            Graph
          </Toggle>
          <Tip title="Copy the path">
            <IconButton aria-label="Copy the path" onClick={() => void copy(asset.path)}>
              <ContentCopyIcon fontSize="small" />
            </IconButton>
          </Tip>
          <Button onClick={() => void copy(asset.path.replace(/\.[^./]+$/, ''))}>
            Copy without extension
          </Button>
          {asset.hash !== null && (sheet !== null || asset.kind === 'other') && (
            <Button
              component={Link}
              to={`${viewPath(place, 'formats')}?${new URLSearchParams({ ...(span.from && { from: span.from.label }), to: asset.build, file: asset.path, ...(sheet && { sheet }) })}`}
            >
              Format
            </Button>
          )}
          <Button onClick={() => void collecting.collect([asset.path])}>Add to the haul</Button>
          {asset.hash !== null && (
            <Button
              component="a"
              href={contentAddress(asset.hash, 'binary')}
              download={nameOf(asset.path)}
              startIcon={<DownloadIcon />}
            >
              Save
            </Button>
          )}
        </Box>
        {asset.problem && (
          <Typography role="alert" sx={{ px: 2, py: 1, borderBottom: 1, borderColor: 'divider' }}>
            {`A problem was found: ${asset.problem}.`}
          </Typography>
        )}
        <Box
          sx={{
            ...{ flex: { xs: '0 0 auto', md: 1 }, minHeight: { xs: '50vh', md: 0 } },
            ...{ bgcolor: 'plate', position: 'relative', display: 'flex' },
          }}
        >
          <Suspense fallback={<Loading what="the viewer" />}>
            {isGraph ? <LinkGraph asset={asset} /> : <Exhibit asset={asset} />}
          </Suspense>
        </Box>
        <History asset={asset} />
      </Box>
      <Box
        component="aside"
        aria-label="About this asset"
        sx={{
          ...sidePane(390),
          p: 2,
          display: 'grid',
          // As wide as the pane, however long a path is.
          gridTemplateColumns: 'minmax(0, 1fr)',
          gap: 2,
          alignContent: 'start',
        }}
      >
        {isToldAll && (
          <>
            <NamePanel build={asset.build} path={asset.path} />
            <FactsList asset={asset} />
            <FamilyPanel asset={asset} />
            <LinksPanel asset={asset} onGraph={() => set({ show: 'graph' }, { replace: false })} />
            <Publishing asset={asset} />
          </>
        )}
        {asset.elsewhere.length > 0 && (
          <Box>
            <Typography variant="h2">The same content elsewhere</Typography>
            {asset.elsewhere.map((path) => (
              <MuiLink key={path} component={Link} to={assetPath(place, span, path)}>
                <PathText path={path} />
              </MuiLink>
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}
