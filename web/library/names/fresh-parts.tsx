import { Box, Button, Link as MuiLink, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { FreshPart } from '../../../contract/names.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { assetPath, usePlace, useSpan, viewPath } from '../../ui/use-span.ts';
import { useFreshPartsQuery } from './api.ts';
import { useChange } from './use-lexicon.ts';

interface Props {
  titleId: number;
  where: { channel: number; build: string };
}

/** Parts of names that no build before had: the names alone are news. */
export function FreshParts({ titleId, where }: Props): ReactNode {
  const { data, error, isLoading, refetch } = useFreshPartsQuery(where);
  if (isLoading) return <Loading what="the parts of names" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (data.length === 0)
    return <Empty title="No part is new">Every part of a name in this build was in a build before it.</Empty>;
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
      <Typography role="status" variant="body2" color="text.secondary" sx={{ px: 2, py: 0.5 }}>
        {`${plural(data.length, 'part')} that no build before ${where.build} had`}
      </Typography>
      {data.map((fresh) => (
        <Fresh key={fresh.part} fresh={fresh} titleId={titleId} build={where.build} />
      ))}
    </Box>
  );
}

function Fresh({
  fresh: { part, assets, examples, meaning },
  titleId,
  build,
}: {
  fresh: FreshPart;
  titleId: number;
  build: string;
}): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const change = useChange(titleId);
  const [said, setSaid] = useState('');
  return (
    <Box
      component="section"
      aria-label={part}
      sx={{
        px: 2,
        py: 0.5,
        display: 'grid',
        gridTemplateColumns: '140px 100px 1fr 200px 90px',
        gap: 1.5,
        alignItems: 'center',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <strong className="path">{part}</strong>
      <MuiLink
        component={Link}
        to={`${viewPath(place, 'library')}?to=${encodeURIComponent(build)}&text=${encodeURIComponent(part.replaceAll('#', ''))}`}
      >
        {plural(assets, 'file')}
      </MuiLink>
      <Box sx={{ minWidth: 0 }}>
        {examples.slice(0, 2).map((path) => (
          <MuiLink
            key={path}
            component={Link}
            to={assetPath(place, span, path, build)}
            color="inherit"
            underline="hover"
          >
            <PathText path={path} />
          </MuiLink>
        ))}
      </Box>
      {meaning === '' ? (
        <TextField
          variant="standard"
          value={said}
          placeholder="what it means"
          slotProps={{ htmlInput: { 'aria-label': `Meaning of ${part}` } }}
          onChange={({ target }) => setSaid(target.value)}
        />
      ) : (
        <span>{meaning}</span>
      )}
      {meaning === '' && (
        <Button
          disabled={said.trim() === ''}
          onClick={() =>
            void change({
              put: [{ part, role: 'code name', meaning: said, saidBy: '', sinceBuild: build }],
            })
          }
        >
          Keep
        </Button>
      )}
    </Box>
  );
}
