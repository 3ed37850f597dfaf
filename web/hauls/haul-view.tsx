import { Box, Button, IconButton, Link as MuiLink, Typography } from '@mui/material';
import CloseIcon from '@mui/icons-material/Close';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { bytesText, plural } from '../../core/figures.ts';
import { useHaulQuery, useUncollectMutation } from '../library/api.ts';
import { withoutExtension } from '../library/columns.ts';
import { failureText } from '../ui/api.ts';
import { PathText } from '../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { assetPath, usePlace, useSpan } from '../ui/use-span.ts';

const pageSize = 500;

/** What was collected in order to be taken out together. */
export function HaulView(): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [offset, setOffset] = useState(0);
  const { enqueueSnackbar } = useSnackbar();
  const channel = place.channel.id;
  const { data, error, isLoading, refetch } = useHaulQuery({ channel, offset, limit: pageSize });
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
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          px: 2,
          py: 0.75,
          borderBottom: 1,
          borderColor: 'divider',
          display: 'flex',
          gap: 1,
          alignItems: 'baseline',
        }}
      >
        <Typography variant="h1" sx={{ mr: 2 }}>
          Haul
        </Typography>
        <Typography
          role="status"
          sx={{ flex: 1 }}
        >{`${plural(data.total, 'asset')}, ${bytesText(data.bytes)}`}</Typography>
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
        <Button onClick={() => void copy(false)}>Copy paths</Button>
        <Button onClick={() => void copy(true)}>without extension</Button>
        <Button onClick={() => void uncollect({ channel, paths: null })}>Take all out</Button>
      </Box>
      <Box component="ul" sx={{ flex: 1, minHeight: 0, overflow: 'auto', listStyle: 'none', m: 0, p: 0 }}>
        {data.assets.map(({ path, build }) => (
          <Box
            component="li"
            key={path}
            sx={{
              px: 2,
              py: 0.25,
              display: 'grid',
              gridTemplateColumns: 'minmax(0, 1fr) 110px 30px',
              gap: 1,
              alignItems: 'center',
              borderBottom: 1,
              borderColor: 'divider',
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
              onClick={() => void uncollect({ channel, paths: [path] })}
            >
              <CloseIcon fontSize="inherit" />
            </IconButton>
          </Box>
        ))}
      </Box>
    </Box>
  );
}
