import CloseIcon from '@mui/icons-material/Close';
import { Box, Button, IconButton, Link as MuiLink } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { plural } from '../../core/figures.ts';
import { withoutExtension } from '../library/columns.ts';
import { failureText } from '../ui/api.ts';
import { PathText } from '../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { assetPath, usePlace, useSpan } from '../ui/use-span.ts';
import { useHaulAssetsQuery, useUncollectMutation } from './api.ts';

const pageSize = 500;

/** What was collected in a haul. */
export function ChosenPane({ haul }: { haul: number }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [offset, setOffset] = useState(0);
  const { enqueueSnackbar } = useSnackbar();
  const { data, error, isLoading, refetch } = useHaulAssetsQuery({ id: haul, offset, limit: pageSize });
  const [uncollect] = useUncollectMutation();
  if (isLoading) return <Loading what="the haul" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (data.total === 0)
    return (
      <Empty title="The haul is empty">
        Choose assets in the library, or all that a search finds, and add them to the haul.
      </Empty>
    );
  const copy = async (isBare: boolean): Promise<void> => {
    await navigator.clipboard.writeText(
      data.assets.map(({ path }) => (isBare ? withoutExtension(path) : path)).join('\n'),
    );
    enqueueSnackbar(`Copied ${plural(data.assets.length, 'path')}.`);
  };
  return (
    <>
      <Box
        sx={{ px: 1.5, py: 0.5, borderBottom: 1, borderColor: 'divider', display: 'flex', flexWrap: 'wrap' }}
      >
        <Button onClick={() => void copy(false)}>Copy paths</Button>
        <Button onClick={() => void copy(true)}>Copy without extension</Button>
        <Button onClick={() => void uncollect({ id: haul, paths: null })}>Take all out</Button>
        {data.total > pageSize && (
          <>
            <Button disabled={offset === 0} onClick={() => setOffset(Math.max(0, offset - pageSize))}>
              Before
            </Button>
            <Button disabled={offset + pageSize >= data.total} onClick={() => setOffset(offset + pageSize)}>
              Next
            </Button>
          </>
        )}
      </Box>
      <Box component="ul" sx={{ flex: 1, minHeight: 0, overflow: 'auto', listStyle: 'none', m: 0, p: 0 }}>
        {data.assets.map(({ path, build }) => (
          <Box
            component="li"
            key={path}
            sx={{
              ...{ px: 2, py: 0.25, display: 'grid', gap: 1, alignItems: 'center' },
              ...{
                gridTemplateColumns: 'minmax(0, 1fr) 110px 30px',
                borderBottom: 1,
                borderColor: 'divider',
              },
            }}
          >
            <MuiLink
              component={Link}
              to={assetPath(place, span, path, build)}
              color="inherit"
              underline="hover"
            >
              <PathText path={path} />
            </MuiLink>
            <span>{`build ${build}`}</span>
            <IconButton
              size="small"
              aria-label={`Take ${path} out`}
              onClick={() => void uncollect({ id: haul, paths: [path] })}
            >
              <CloseIcon fontSize="inherit" />
            </IconButton>
          </Box>
        ))}
      </Box>
    </>
  );
}
