import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { Asset } from '../../contract/assets.ts';
import { usePlace, viewPath } from '../ui/use-span.ts';
import { useEntriesQuery } from './api.ts';
import { useStartEntry } from './use-start-entry.ts';

/** The catalogue's entries that show this asset, or a step to a first one. */
export function EntryOfAsset({ asset }: { asset: Asset }): ReactNode {
  const place = usePlace();
  const { data } = useEntriesQuery({ channel: place.channel.id, path: asset.path });
  const { start, isStarting } = useStartEntry();
  const own = data?.entries ?? [];
  return (
    <Box>
      <Typography variant="h2">Catalogue</Typography>
      {own.map((entry) => (
        <Typography key={entry.id}>
          <MuiLink component={Link} to={viewPath(place, `catalogue/${entry.id}`)}>
            {entry.name}
          </MuiLink>
          {`, ${entry.state}`}
        </Typography>
      ))}
      {data && own.length === 0 && (
        <Button variant="outlined" disabled={isStarting} onClick={() => void start(asset.path)}>
          Start an entry
        </Button>
      )}
    </Box>
  );
}
