import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { plural } from '../../../core/figures.ts';
import { nameOf } from '../../ui/path-text.tsx';
import type { Level } from './levels.ts';

/** A model where the browser cannot draw in 3D: as the server drew it, with its levels beside. */
export function WithoutTurning({
  reason,
  still,
  name,
  levels,
  linkTo,
}: {
  reason: string;
  still: string;
  name: string;
  levels: readonly Level[];
  /** Address of the page of a level. */
  linkTo: ((path: string) => string) | undefined;
}): ReactNode {
  return (
    <Box
      sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2, display: 'grid', gap: 2, alignContent: 'start' }}
    >
      <Typography role="status">{`${reason}. Below is the server’s picture; all else is as usual.`}</Typography>
      <Box component="img" src={still} alt={name} sx={{ maxWidth: '100%', justifySelf: 'center' }} />
      {levels.length > 1 && (
        <Box role="list" aria-label="Levels of detail" sx={{ display: 'flex', flexWrap: 'wrap', gap: 2 }}>
          {levels.map(({ path, level, triangles, preview }) => (
            <Box key={path} role="listitem" sx={{ width: 150 }}>
              {preview && <Box component="img" src={preview} alt="" sx={{ width: 150, height: 150 }} />}
              <Typography variant="body2">
                {`Level ${level}${triangles === null ? '' : `, ${plural(triangles, 'triangle')}`}`}
              </Typography>
              {linkTo ? (
                <MuiLink component={Link} to={linkTo(path)} className="path">
                  {nameOf(path)}
                </MuiLink>
              ) : (
                <span className="path">{nameOf(path)}</span>
              )}
            </Box>
          ))}
        </Box>
      )}
    </Box>
  );
}
