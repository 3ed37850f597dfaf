import { Box, Link as MuiLink, Typography } from '@mui/material';
import { lazy, Suspense, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { News } from '../../../contract/news.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { assetPath, spanQuery, usePlace, useSpan, viewPath } from '../../ui/use-span.ts';
import { useNewsQuery } from './api.ts';
import { NewsList } from './news-list.tsx';

const NewsCharts = lazy(() => import('./news-charts.tsx'));

/** What a team wants to know of an update within the first minutes. */
export function NewsView(): ReactNode {
  const { channel } = usePlace();
  const { from, to } = useSpan();
  const { data, error, refetch } = useNewsQuery(
    { channel: channel.id, from: from?.label ?? '', to: to?.label ?? '' },
    { skip: !from || !to },
  );
  if (!from || !to)
    return (
      <Empty title="One build alone has no news">
        Pick a second mark on the line above: what differs between the two is told here.
      </Empty>
    );
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!data) return <Loading what="the news" />;
  return <Loaded news={data} />;
}

function Loaded({ news }: { news: News }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const hidden = news.folds.reduce((sum, { hides }) => sum + hides, 0);
  const report = (format: string): string =>
    `/api/report?${new URLSearchParams({ title: news.title, channel: news.channel, from: news.from, to: news.to, format })}`;
  return (
    <Box tabIndex={0} role="region" aria-label="News" sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: { xs: 'minmax(0, 1fr)', md: 'minmax(0, 1.6fr) minmax(0, 1fr)' },
          gap: { xs: 2, md: 3 },
          p: { xs: 1.25, md: 2 },
        }}
      >
        <Box sx={{ minWidth: 0 }}>
          <Typography variant="h1">{`What is new in ${news.to}`}</Typography>
          <Typography sx={{ mb: 1 }}>
            {`${plural(news.newsTotal, 'finding')} with news, the most first; ${hidden.toLocaleString('en')} folded away as noise; ${news.summary.unchanged.toLocaleString('en')} unchanged. `}
            {news.evidence !== 'done' && 'Not all was compared yet, so that ranks may still change. '}
            <MuiLink component={Link} to={`${viewPath(place, 'findings')}?${spanQuery(span)}&sort=news`}>
              Go through them
            </MuiLink>
            {'. Report: '}
            {['md', 'html', 'json'].map((format, at) => (
              <span key={format}>
                {at > 0 ? ', ' : ''}
                <a href={report(format)} download={`${news.title} ${news.from} to ${news.to}.${format}`}>
                  {{ md: 'Markdown', html: 'HTML', json: 'JSON' }[format]}
                </a>
              </span>
            ))}
          </Typography>
          {news.news.length === 0 ? (
            <Empty title="Nothing is news here">What differs is folded away as noise, or gone.</Empty>
          ) : (
            <NewsList items={news.news} />
          )}
        </Box>
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: 'minmax(0, 1fr)',
            gap: 2.5,
            alignContent: 'start',
            minWidth: 0,
          }}
        >
          <KindTable news={news} />
          <Suspense fallback={<Loading what="the charts" />}>
            <NewsCharts news={news} />
          </Suspense>
          <Section title="New families" items={news.families} more={news.families.length}>
            {({ face, name, files }) => (
              <MuiLink
                key={face}
                component={Link}
                to={assetPath(place, span, face)}
              >{`${name}, ${plural(files, 'file')}`}</MuiLink>
            )}
          </Section>
          <Section title="Names never seen" items={news.freshParts} more={news.freshParts.length}>
            {({ part, meaning, assets, examples }) => (
              <Box key={part}>
                <strong>{part}</strong>
                {`${meaning === '' ? '' : `, ${meaning}`}: ${plural(assets, 'file')} `}
                <PathText path={examples[0] ?? ''} />
              </Box>
            )}
          </Section>
          <Section
            title={
              news.untranslated > 0
                ? `Strings (${news.untranslated.toLocaleString('en')} untranslated)`
                : 'Strings'
            }
            items={news.strings}
            more={news.stringsTotal}
          >
            {({ path, key, language, value, old }) => (
              <Box key={`${path} ${key}`} sx={{ overflowWrap: 'anywhere' }}>
                <span className="path">{`${language} ${key}`}</span>
                {old === null ? `: ${value}` : `: ${old} → ${value}`}
              </Box>
            )}
          </Section>
          <Section title="Archives that differ" items={news.containers} more={news.containers.length}>
            {({ path, sentence }) => (
              <Box key={path}>
                <PathText path={path} />
                {sentence}
              </Box>
            )}
          </Section>
        </Box>
      </Box>
    </Box>
  );
}

const shown = 12;

function Section<Item>({
  title,
  items,
  more,
  children,
}: {
  title: string;
  items: readonly Item[];
  more: number;
  children: (item: Item) => ReactNode;
}): ReactNode {
  if (items.length === 0) return null;
  return (
    <Box>
      <Typography variant="h2">{title}</Typography>
      <Box sx={{ display: 'grid', gap: 0.5, fontSize: '0.9rem' }}>{items.slice(0, shown).map(children)}</Box>
      {more > shown && (
        <Typography
          variant="body2"
          color="text.secondary"
        >{`and ${(more - shown).toLocaleString('en')} more in the report`}</Typography>
      )}
    </Box>
  );
}

const statuses = ['added', 'removed', 'changed', 'moved', 'copied', 'repacked'] as const;

function KindTable({ news }: { news: News }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  return (
    <Box
      component="table"
      sx={{
        borderCollapse: 'collapse',
        fontSize: '0.8rem',
        width: '100%',
        tableLayout: 'fixed',
        overflowWrap: 'anywhere',
        '& th, & td': { textAlign: 'right', borderBottom: 1, borderColor: 'divider', py: 0.25, px: 0.25 },
        '& th:first-of-type': { textAlign: 'left' },
      }}
    >
      <thead>
        <tr>
          <th scope="col">Kind</th>
          {statuses.map((status) => (
            <th key={status} scope="col">
              {status}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {Object.entries(news.kinds).map(([kind, counts]) => (
          <tr key={kind}>
            <th scope="row">{kind}</th>
            {statuses.map((status) => (
              <td key={status}>
                {counts[status] ? (
                  <MuiLink
                    component={Link}
                    to={`${viewPath(place, 'findings')}?${spanQuery(span)}&kind=${kind}&status=${status}`}
                  >
                    {counts[status].toLocaleString('en')}
                  </MuiLink>
                ) : (
                  ''
                )}
              </td>
            ))}
          </tr>
        ))}
      </tbody>
    </Box>
  );
}
