import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Asset } from '../../contract/assets.ts';
import { nameOf } from '../shell/path-text.tsx';
import { usePlace, viewPath } from '../shell/use-span.ts';
import { useCreateEntryMutation, useEntriesQuery } from './api.ts';

/** The catalogue's entries that show this asset, or a step to a first one. */
export function EntryOfAsset({ asset }: { asset: Asset }): ReactNode {
  const place = usePlace();
  const navigate = useNavigate();
  const { data: entries } = useEntriesQuery(place.channel.id);
  const [create, { isLoading }] = useCreateEntryMutation();
  const own = entries?.filter(({ paths }) => paths.includes(asset.path)) ?? [];
  const start = async (): Promise<void> => {
    const name = nameOf(asset.path);
    const entry = await create({
      channelId: place.channel.id,
      name: name.replace(/\.[^.]+$/, '').replace(/[_-]+/g, ' '),
      internalName: name,
      summary: '',
      credits: '',
      spoiler: false,
      state: 'draft',
      paths: [asset.path],
    }).unwrap();
    await navigate(viewPath(place, `catalogue/${entry.id}`));
  };
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
      {entries && own.length === 0 && (
        <Button variant="outlined" disabled={isLoading} onClick={() => void start()}>
          Start an entry
        </Button>
      )}
    </Box>
  );
}
