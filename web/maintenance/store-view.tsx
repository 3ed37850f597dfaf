import { Box, Button, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { BuildSize, KindSize, Sizes } from '../../contract/housekeeping.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { failureText } from '../ui/api.ts';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAppSelector } from '../ui/store.ts';
import { JobCard } from '../jobs/job-card.tsx';
import { WorkPage } from '../ui/work-page.tsx';
import { useCheckStoreMutation, useRemoveBuildMutation, useSizesQuery } from './api.ts';

/** What takes how much room, removing builds, and checking that all is there. */
export function StoreView(): ReactNode {
  const { data, error, refetch } = useSizesQuery();
  const [check, { data: checking }] = useCheckStoreMutation();
  const told = useAppSelector(({ work }) => work.jobs.find(({ id }) => id === checking?.id)) ?? checking;
  return (
    <WorkPage title="Store" lead="Each content is kept once, however many builds and paths hold it.">
      {error && <Failure text={failureText(error)} onRetry={() => void refetch()} />}
      {!data && !error && <Loading what="the sizes" />}
      {data && (
        <>
          <Box sx={{ display: 'flex', gap: 3, alignItems: 'center', mb: 2 }}>
            <Typography>{`${plural(data.contents, 'content')}, ${bytesText(data.bytes)} in all, previews too.`}</Typography>
            <Button
              variant="outlined"
              onClick={() => void check()}
              disabled={told?.state === 'running' || told?.state === 'waiting'}
            >
              Check every content
            </Button>
          </Box>
          {told && (
            <Box sx={{ mb: 2, maxWidth: 900 }}>
              <JobCard job={told} />
            </Box>
          )}
          {data.titles.length === 0 && (
            <Empty title="Nothing is kept yet">Bring in a build, and its sizes stand here.</Empty>
          )}
          {data.titles.map((title) => (
            <TitleSizes key={title.name} title={title} />
          ))}
        </>
      )}
    </WorkPage>
  );
}

function TitleSizes({ title }: { title: Sizes['titles'][number] }): ReactNode {
  return (
    <Box component="section" aria-label={title.name} sx={{ mb: 4, maxWidth: 1160 }}>
      <Typography variant="h2" gutterBottom>{`${title.name}, ${bytesText(title.bytes)}`}</Typography>
      <Box sx={{ display: 'grid', gridTemplateColumns: '360px minmax(0, 1fr)', gap: 4 }}>
        <KindBars kinds={title.kinds} />
        <Box
          component="table"
          sx={{
            borderCollapse: 'collapse',
            width: '100%',
            alignSelf: 'start',
            '& td, & th': {
              borderBottom: 1,
              borderColor: 'divider',
              py: 0.5,
              textAlign: 'left',
              fontWeight: 400,
            },
          }}
        >
          <thead>
            <tr>
              {['Build', 'All its files', 'Its own alone', ''].map((name) => (
                <Typography key={name} component="th" color="text.secondary" scope="col">
                  {name}
                </Typography>
              ))}
            </tr>
          </thead>
          <tbody>
            {title.builds.map((build) => (
              <BuildRow key={build.id} build={build} />
            ))}
          </tbody>
        </Box>
      </Box>
    </Box>
  );
}

/** One bar to a kind, to the scale of the largest. */
function KindBars({ kinds }: { kinds: readonly KindSize[] }): ReactNode {
  const most = Math.max(1, ...kinds.map(({ bytes }) => bytes));
  return (
    <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0 }}>
      {kinds.map(({ kind, bytes, contents }) => (
        <Box
          component="li"
          key={kind}
          sx={{
            display: 'grid',
            gridTemplateColumns: '64px 1fr 76px',
            gap: 1,
            alignItems: 'center',
            py: 0.3,
          }}
        >
          <span>{kind}</span>
          <Box aria-hidden sx={{ height: 10, bgcolor: 'plate' }}>
            <Box sx={{ height: 10, width: `${(bytes / most) * 100}%`, bgcolor: 'text.secondary' }} />
          </Box>
          <Typography
            variant="body2"
            title={plural(contents, 'content')}
            sx={{ textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}
          >
            {bytesText(bytes)}
          </Typography>
        </Box>
      ))}
    </Box>
  );
}

function BuildRow({ build }: { build: BuildSize }): ReactNode {
  const [remove, { data: job, error }] = useRemoveBuildMutation();
  const [isSure, setSure] = useState(false);
  return (
    <tr>
      <td>{`${build.channel}, ${build.label}`}</td>
      <td>{bytesText(build.bytes)}</td>
      <td>{bytesText(build.ownBytes)}</td>
      <Box component="td" sx={{ '&&': { textAlign: 'right' } }}>
        {job ? (
          <span role="status">It is being removed.</span>
        ) : isSure ? (
          <>
            <span role="alert">{error ? failureText(error) : 'For good?'}</span>
            <Button onClick={() => void remove(build.id)}>Remove the build</Button>
            <Button onClick={() => setSure(false)}>Cancel</Button>
          </>
        ) : (
          <Button
            onClick={() => setSure(true)}
            aria-label={`Remove build ${build.label} of ${build.channel}`}
          >
            Remove
          </Button>
        )}
      </Box>
    </tr>
  );
}
