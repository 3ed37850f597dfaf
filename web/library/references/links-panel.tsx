import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Asset } from '../../../contract/assets.ts';
import type { ReachedAsset } from '../../../contract/references.ts';
import { plural } from '../../../core/figures.ts';
import { ruleTexts } from '../../../core/references/resolve.ts';
import { failureText } from '../../ui/api.ts';
import { PathText, nameOf } from '../../ui/path-text.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useReferencesQuery } from './api.ts';

/** What an asset needs, and who needs it, as lists. */
export function LinksPanel({ asset, onGraph }: { asset: Asset; onGraph: () => void }): ReactNode {
  const { channel } = usePlace();
  const { data, error } = useReferencesQuery({ channel: channel.id, build: asset.build, path: asset.path });
  if (error) return <Typography color="text.secondary">{failureText(error)}</Typography>;
  if (!data)
    return (
      <Typography color="text.secondary" role="status">
        Following the links…
      </Typography>
    );
  const { needs, neededBy, missing } = data;
  return (
    <Box>
      <Typography variant="h2" sx={{ display: 'flex', alignItems: 'center' }}>
        Links
        {needs.length + neededBy.length + missing.length > 0 && (
          <Button onClick={onGraph} sx={{ ml: 'auto' }}>
            As a graph
          </Button>
        )}
      </Typography>
      {needs.length + neededBy.length + missing.length === 0 && (
        <Typography variant="body2" color="text.secondary">
          It names nothing, and nothing names it.
        </Typography>
      )}
      {missing.map(({ text, where }) => (
        <Typography key={text} variant="body2" color="error" sx={{ overflowWrap: 'anywhere' }}>
          {`Missing: `}
          <span className="path">{text}</span>
          {` (${where})`}
        </Typography>
      ))}
      <Reached title="Needs" reached={needs} asset={asset} />
      <Reached title="Needed by" reached={neededBy} asset={asset} />
    </Box>
  );
}

const shownAtFirst = 8;

function Reached({
  title,
  reached,
  asset,
}: {
  title: string;
  reached: readonly ReachedAsset[];
  asset: Asset;
}): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [isWhole, setWhole] = useState(false);
  if (reached.length === 0) return null;
  return (
    <Box component="section" aria-label={title}>
      <Typography variant="h3">{`${title} (${plural(reached.length, 'asset')})`}</Typography>
      {(isWhole ? reached : reached.slice(0, shownAtFirst)).map(
        ({ path, kind, depth, via, rule, text, where }) => (
          <Box key={path} sx={{ pl: (Math.min(depth, 4) - 1) * 1.5 }}>
            <MuiLink
              component={Link}
              to={assetPath(place, span, path, asset.build)}
              color="inherit"
              title={`${text} (${where})`}
            >
              <PathText path={path} />
            </MuiLink>
            <Typography variant="caption" component="div" color="text.secondary" sx={{ lineHeight: 1.2 }}>
              {[kind, rule === 'exact' ? '' : ruleTexts[rule], depth > 1 ? `by way of ${nameOf(via)}` : '']
                .filter((said) => said !== '')
                .join(', ')}
            </Typography>
          </Box>
        ),
      )}
      {reached.length > shownAtFirst && !isWhole && (
        <Button onClick={() => setWhole(true)}>{`All ${reached.length}`}</Button>
      )}
    </Box>
  );
}
