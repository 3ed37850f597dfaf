import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { kindSchema } from '../../../contract/kinds.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useUnnamedQuery } from './api.ts';

const pageSize = 200;

/** What nothing refers to: left over, or not yet in use. */
export function Unnamed({ where }: { where: { channel: number; build: string } }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [kind, setKind] = useState('');
  const [offset, setOffset] = useState(0);
  const { data, error, isLoading, refetch } = useUnnamedQuery({ ...where, kind, offset, limit: pageSize });
  if (isLoading) return <Loading what="what nothing refers to" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  return (
    <>
      <Box
        sx={{
          px: 2,
          py: 0.5,
          display: 'flex',
          gap: 1,
          alignItems: 'center',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        {kindSchema.options.map((option) => (
          <Toggle
            key={option}
            isOn={kind === option}
            onClick={() => {
              setKind(kind === option ? '' : option);
              setOffset(0);
            }}
          >
            {option}
          </Toggle>
        ))}
        <Typography role="status" variant="body2" color="text.secondary" sx={{ ml: 'auto' }}>
          {`${plural(data.total, 'asset')}${kind === '' ? '; texts, maps, fonts and what is of no kind are left out' : ''}`}
        </Typography>
        {data.total > pageSize && (
          <>
            <Button disabled={offset === 0} onClick={() => setOffset(offset - pageSize)}>
              Before
            </Button>
            <Button disabled={offset + pageSize >= data.total} onClick={() => setOffset(offset + pageSize)}>
              Next
            </Button>
          </>
        )}
      </Box>
      {data.total === 0 ? (
        <Empty title="All of it is named">Every asset of this sort is named by another one.</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
          {data.assets.map(({ path, kind: itsKind, size }) => (
            <Box
              key={path}
              sx={{
                px: 2,
                py: 0.25,
                display: 'grid',
                gridTemplateColumns: 'minmax(0, 1fr) 80px 90px',
                gap: 1,
                borderBottom: 1,
                borderColor: 'divider',
              }}
            >
              <MuiLink component={Link} to={assetPath(place, span, path)} color="inherit" underline="hover">
                <PathText path={path} />
              </MuiLink>
              <span>{itsKind}</span>
              <Box component="span" sx={{ textAlign: 'right' }}>
                {bytesText(size)}
              </Box>
            </Box>
          ))}
        </Box>
      )}
    </>
  );
}
