import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import type { NewsItem } from '../../../contract/news.ts';
import { Preview } from '../../library/assets/preview.tsx';
import { comparePath, labelsOf } from '../../ui/compare-address.ts';
import { StatusWord } from '../findings/status-glyph.tsx';
import { folderOf, nameOf, PathText } from '../../ui/path-text.tsx';
import { Plate } from '../../ui/plate.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';

/** Each with its points, and what gave them. */
export function NewsList({ items }: { items: readonly NewsItem[] }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const wayTo = ({ path, oldPath, status }: NewsItem): string =>
    status === 'changed'
      ? comparePath(place, labelsOf(span), { path, oldPath })
      : assetPath(place, status === 'removed' ? { from: null, to: span.from } : span, path);
  return (
    <Box component="ol" sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {items.map((item) => (
        <Box
          component="li"
          key={`${item.status} ${item.path}`}
          sx={{
            display: 'grid',
            gridTemplateColumns: { xs: '56px minmax(0, 1fr) 30px', md: '84px minmax(0, 1fr) 44px' },
            gap: 1.5,
            py: 0.75,
            borderTop: 1,
            borderColor: 'divider',
          }}
        >
          <Plate height={64}>
            <Preview {...item} facts={null} isSmall />
          </Plate>
          <Box sx={{ minWidth: 0 }}>
            <Box
              sx={{
                display: 'flex',
                columnGap: 1,
                alignItems: 'baseline',
                flexWrap: { xs: 'wrap', md: 'nowrap' },
              }}
            >
              <MuiLink component={Link} to={wayTo(item)} sx={{ fontWeight: 700, minWidth: 0 }}>
                <PathText path={nameOf(item.path)} />
              </MuiLink>
              <StatusWord status={item.status} rest={` ${item.kind}`} />
              <Box sx={{ color: 'text.secondary', fontSize: '0.85em', minWidth: 0, flex: 1 }}>
                <PathText path={folderOf(item.path)} />
              </Box>
            </Box>
            <Typography variant="body2" sx={{ overflowWrap: 'anywhere' }}>
              {item.evidence}
            </Typography>
            <Typography variant="body2" color="text.secondary">
              {item.reasons.map(({ why, points }) => `${why} (${points})`).join(' · ')}
            </Typography>
          </Box>
          <Typography
            aria-label={`${item.score} points`}
            sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums', fontWeight: 700 }}
          >
            {item.score}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}
