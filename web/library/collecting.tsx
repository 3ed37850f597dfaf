import { Box, Button, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import type { ReactNode } from 'react';
import { plural } from '../../core/figures.ts';
import { failureText } from '../ui/api.ts';
import { useCollectMutation, useLazyPathsQuery, type PathsRequest } from './api.ts';
import { withoutExtension } from './columns.ts';
import type { Selection } from '../lists/use-selection.ts';

/** What can be done with what is chosen, or with all that is found. */
export interface Collecting {
  collect: (paths: readonly string[] | null) => Promise<void>;
  copy: (paths: readonly string[] | null, isBare: boolean) => Promise<void>;
}

/** @param request all that is found, where no paths are named */
export function useCollecting(request: PathsRequest): Collecting {
  const { enqueueSnackbar } = useSnackbar();
  const [collect] = useCollectMutation();
  const [getPaths] = useLazyPathsQuery();
  return {
    async collect(paths) {
      const answer = await collect(
        paths === null ? request : { channel: request.channel, build: request.build, paths: [...paths] },
      );
      if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
      else
        enqueueSnackbar(
          `${plural(answer.data.added, 'asset')} added to the haul “${answer.data.haul}”, which holds ${answer.data.total.toLocaleString('en')}.`,
        );
    },
    async copy(paths, isBare) {
      let wanted = paths;
      if (wanted === null) {
        const { data, error } = await getPaths(request);
        if (!data) {
          enqueueSnackbar(failureText(error), { variant: 'error' });
          return;
        }
        wanted = data.paths;
      }
      await navigator.clipboard.writeText(
        wanted.map((path) => (isBare ? withoutExtension(path) : path)).join('\n'),
      );
      enqueueSnackbar(`Copied ${plural(wanted.length, 'path')}${isBare ? ' without extension' : ''}.`);
    },
  };
}

export function SelectionBar({
  selection,
  collecting,
}: {
  selection: Selection;
  collecting: Collecting;
}): ReactNode {
  const { paths } = selection;
  if (paths.size === 0) return null;
  const chosen = [...paths];
  return (
    <Box
      role="toolbar"
      aria-label="What is chosen"
      sx={{
        px: 2,
        py: 0.5,
        borderTop: 1,
        borderColor: 'divider',
        display: 'flex',
        gap: 1,
        alignItems: 'center',
        bgcolor: 'background.paper',
      }}
    >
      <Typography variant="body2" role="status" sx={{ fontWeight: 700 }}>
        {`${plural(paths.size, 'asset')} chosen`}
      </Typography>
      <Button variant="outlined" onClick={() => void collecting.collect(chosen)}>
        Add to the haul
      </Button>
      <Button onClick={() => void collecting.copy(chosen, false)}>Copy paths</Button>
      <Button onClick={() => void collecting.copy(chosen, true)}>Copy without extension</Button>
      <Button onClick={selection.clear}>Clear selection</Button>
    </Box>
  );
}
