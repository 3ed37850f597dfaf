import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { plural } from '../../core/figures.ts';
import { PlatedPreview } from './plated-preview.tsx';
import { failureText } from '../ui/api.ts';
import { PathText } from '../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { TextFilter } from '../ui/text-filter.tsx';
import { useAddress } from '../ui/use-address.ts';
import { assetPath, usePlace, useSpan, type Span } from '../ui/use-span.ts';
import { useFamiliesQuery } from './api.ts';

const step = 100;

/** Things rather than files: each by its finest model, with what belongs to it. */
export function FamiliesView(): ReactNode {
  const span = useSpan();
  const [parameters, set] = useAddress();
  const build = span.to?.label ?? '';
  const text = parameters.get('text') ?? '';
  if (build === '')
    return <Empty title="No build yet">Bring in a first build, and its families stand here.</Empty>;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2, py: 0.5, borderBottom: 1, borderColor: 'divider' }}>
        <TextFilter
          value={text}
          onChange={(value) => set({ text: value })}
          label="Words of a name"
          name={`Families of build ${build}`}
        />
      </Box>
      {/* Another question begins at the top, with nothing of the old one left over. */}
      <FamiliesList key={text} build={build} text={text} span={span} />
    </Box>
  );
}

function FamiliesList({ build, text, span }: { build: string; text: string; span: Span }): ReactNode {
  const place = usePlace();
  const [limit, setLimit] = useState(step);
  const { data, error, isLoading, refetch } = useFamiliesQuery({
    channel: place.channel.id,
    build,
    text,
    offset: 0,
    limit: Math.min(200, limit),
  });
  if (isLoading) return <Loading what="the families: files are gathered by names, folders and links" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (data.total === 0)
    return (
      <Empty title="No family here">A family has more than one file; take a word away to see others.</Empty>
    );
  return (
    <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
      <Typography role="status" variant="body2" color="text.secondary" sx={{ px: 2, py: 0.75 }}>
        {`${plural(data.total, 'family').replace('familys', 'families')} of more than one file${data.total > data.families.length ? `, the ${data.families.length} largest are shown` : ''}`}
      </Typography>
      <Box
        component="ul"
        sx={{
          listStyle: 'none',
          m: 0,
          p: 1,
          display: 'grid',
          gridTemplateColumns: 'repeat(auto-fill, minmax(230px, 1fr))',
          gap: 1,
        }}
      >
        {data.families.map(({ name, meaning, folder, files, kinds, face }) => (
          <Box
            component="li"
            key={face.path}
            sx={{
              border: 1,
              borderColor: 'divider',
              bgcolor: 'background.paper',
              display: 'flex',
              minWidth: 0,
            }}
          >
            <PlatedPreview of={face} height={84} width={84} />
            <Box sx={{ p: 0.75, minWidth: 0 }}>
              <MuiLink
                component={Link}
                to={`${assetPath(place, span, face.path)}#family`}
                color="inherit"
                underline="hover"
              >
                <strong>
                  <PathText path={name} />
                </strong>
              </MuiLink>
              {meaning !== '' && (
                <Typography variant="body2" noWrap title={meaning}>
                  {meaning}
                </Typography>
              )}
              {folder !== '' && (
                <Typography variant="caption" component="div" color="text.secondary" noWrap>
                  {folder}
                </Typography>
              )}
              <Typography
                variant="caption"
                component="div"
                title={`${files} files`}
                sx={{ lineHeight: 1.25 }}
              >
                {Object.entries(kinds)
                  .map(([kind, count]) => (kind === 'other' ? `${count} other` : plural(count, kind)))
                  .join(', ')}
              </Typography>
            </Box>
          </Box>
        ))}
      </Box>
      {data.total > data.families.length && limit < 200 && (
        <Button sx={{ m: 1 }} onClick={() => setLimit(limit + step)}>
          Show more
        </Button>
      )}
    </Box>
  );
}
