import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { Inbox } from '../../contract/catalogue.ts';
import { plural } from '../../core/figures.ts';
import { failureText } from '../ui/api.ts';
import { Failure, Loading } from '../ui/states.tsx';
import { PathText } from '../ui/path-text.tsx';
import { assetPath, usePlace, useSpan, viewPath } from '../ui/use-span.ts';
import { useInboxQuery } from './api.ts';
import { useStartEntriesMutation } from './start-entries-api.ts';

const shownAtFirst = 20;

/** What the span means for the catalogue: what became of things that have entries, and what is new and has none. */
export function InboxPane(): ReactNode {
  const place = usePlace();
  const { from, to } = useSpan();
  const { data, error, refetch } = useInboxQuery(
    { channel: place.channel.id, from: from?.label ?? '', to: to?.label ?? '' },
    { skip: !from || !to },
  );
  if (!from || !to)
    return <Typography>Pick two builds on the line: what lies between them comes here.</Typography>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!data) return <Loading what="what is new for the catalogue" />;
  return (
    <Box sx={{ display: 'grid', gridTemplateColumns: 'minmax(0, 1fr)', gap: 2 }}>
      <Typography
        variant="body2"
        color="text.secondary"
      >{`From build ${from.label} to ${to.label}`}</Typography>
      {data.due.length > 0 && (
        <Part title="Withheld until now" empty="">
          {data.due.map(({ entry, name, until }) => (
            <EntryLink key={entry} entry={entry} name={name} after={`, until ${until}`} />
          ))}
        </Part>
      )}
      <Part title="Changed, and has an entry" empty="Nothing in an entry is another one.">
        {data.changed.map(({ entry, name, path, what }) => (
          <Box key={`${entry} ${path}`}>
            <EntryLink entry={entry} name={name} after={`: ${what}`} />
            <PathText path={path} />
          </Box>
        ))}
      </Part>
      <Fresh inbox={data} />
    </Box>
  );
}

function Part({
  title,
  empty,
  children,
}: {
  title: string;
  empty: string;
  children: ReactNode[];
}): ReactNode {
  const [isWhole, setWhole] = useState(false);
  return (
    <Box component="section" aria-label={title}>
      <Typography variant="h3">{title}</Typography>
      {children.length === 0 && <Typography color="text.secondary">{empty}</Typography>}
      {isWhole ? children : children.slice(0, shownAtFirst)}
      {children.length > shownAtFirst && !isWhole && (
        <Button onClick={() => setWhole(true)}>{`All ${children.length.toLocaleString('en')}`}</Button>
      )}
    </Box>
  );
}

function EntryLink({ entry, name, after }: { entry: number; name: string; after: string }): ReactNode {
  const place = usePlace();
  return (
    <Typography>
      <MuiLink component={Link} to={viewPath(place, `catalogue/${entry}`)}>
        {name}
      </MuiLink>
      {after}
    </Typography>
  );
}

/** What is new and in no entry: the largest first, with a draft for each at once. */
function Fresh({ inbox: { fresh, newTotal } }: { inbox: Inbox }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { enqueueSnackbar } = useSnackbar();
  const [start, { isLoading }] = useStartEntriesMutation();
  const shown = fresh.slice(0, shownAtFirst);
  const startAll = async (): Promise<void> => {
    const { data, error } = await start({
      channel: place.channel.id,
      build: span.to?.label ?? '',
      paths: shown.map(({ path }) => path),
    });
    if (data) enqueueSnackbar(`${plural(data.length, 'draft')} made`);
    else enqueueSnackbar(failureText(error), { variant: 'error' });
  };
  return (
    <Box component="section" aria-label="New, and without an entry">
      <Typography variant="h3">{`New, and without an entry: ${newTotal.toLocaleString('en')}`}</Typography>
      {shown.map(({ path }) => (
        <MuiLink key={path} component={Link} to={assetPath(place, span, path)} underline="hover">
          <PathText path={path} />
        </MuiLink>
      ))}
      {shown.length > 0 && (
        <Button variant="outlined" sx={{ mt: 1 }} disabled={isLoading} onClick={() => void startAll()}>
          {shown.length === 1 ? 'Start a draft of it' : `Start drafts of these ${shown.length}`}
        </Button>
      )}
    </Box>
  );
}
