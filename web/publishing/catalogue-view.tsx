import { paneRow, sidePane } from '../ui/side-pane.ts';
import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { entryStateSchema } from '../../contract/catalogue.ts';
import { Toggle } from '../ui/toggle.tsx';
import { failureText } from '../ui/api.ts';
import { PaneTabs } from '../ui/pane-tabs.tsx';
import { TextFilter } from '../ui/text-filter.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAddress } from '../ui/use-address.ts';
import { usePlace, viewPath } from '../ui/use-span.ts';
import { useEntriesQuery, useEntryQuery } from './api.ts';
import { PublishPane } from './editions/publish-pane.tsx';
import { SitePane } from './editions/site-pane.tsx';
import { EntryPage } from './entry-page.tsx';
import { EntryPlate } from './entry-plate.tsx';
import { InboxPane } from './inbox-pane.tsx';

const states = entryStateSchema.options;

export function CatalogueView(): ReactNode {
  const { item: entryId } = useParams();
  const { channel } = usePlace();
  return entryId === undefined ? <EntryList key={channel.id} /> : <OneEntry id={entryId} />;
}

function OneEntry({ id }: { id: string }): ReactNode {
  const { currentData: entry, error, refetch } = useEntryQuery(id);
  if (error && 'status' in error && error.status === 404)
    return <Empty title="There is no such entry">It may have been taken away.</Empty>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!entry) return <Loading what="the entry" />;
  return <EntryPage key={`${entry.id} ${entry.revision}`} entry={entry} />;
}

const pageSize = 100;

function EntryList(): ReactNode {
  const place = usePlace();
  const [parameters, set] = useAddress();
  const state = entryStateSchema.safeParse(parameters.get('state')).data ?? '';
  const text = parameters.get('text') ?? '';
  const page = Math.max(0, Math.floor(Number(parameters.get('page') ?? 0)) || 0);
  const { data, error, refetch } = useEntriesQuery({
    ...{ channel: place.channel.id, state, text, offset: page * pageSize, limit: pageSize },
  });
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!data) return <Loading what="the catalogue" />;
  const { entries: shown, total, states: counts } = data;
  const hasAny = Object.values(counts).some((count) => count > 0);
  const choose = (value: string): void => set({ state: value === state ? '' : value, page: undefined });
  const turnTo = (next: number): void =>
    set({ page: next === 0 ? undefined : String(next) }, { replace: false });
  return (
    <Box sx={paneRow}>
      <Box sx={{ flex: 1, overflow: 'auto', p: 2 }}>
        <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'baseline', mb: 1.5 }}>
          <Typography variant="h1" sx={{ mr: 2 }}>
            Catalogue
          </Typography>
          {states.map((option) => (
            <Toggle key={option} isOn={state === option} onClick={() => choose(option)}>
              {`${option} ${(counts[option] ?? 0).toLocaleString('en')}`}
            </Toggle>
          ))}
          <Box sx={{ flex: 1 }} />
          <TextFilter
            label="A part of a name"
            value={text}
            onChange={(value) => set({ text: value, page: undefined })}
          />
        </Box>
        {!hasAny && text === '' && (
          <Empty title="No entry yet">
            Open an asset, and start one from there: its path, facts and note come along.
          </Empty>
        )}
        {(hasAny || text !== '') && shown.length === 0 && (
          <Empty title={text === '' ? `No entry is ${state}` : `No entry is called “${text}”`} />
        )}
        <Box
          component="ul"
          sx={{
            listStyle: 'none',
            p: 0,
            m: 0,
            display: 'grid',
            gridTemplateColumns: 'repeat(auto-fill, minmax(190px, 1fr))',
            gap: 1.5,
          }}
        >
          {shown.map((entry) => (
            <Box
              component="li"
              key={entry.id}
              sx={{ border: 1, borderColor: 'divider', bgcolor: 'background.paper' }}
            >
              <MuiLink
                component={Link}
                to={viewPath(place, `catalogue/${entry.id}`)}
                underline="none"
                color="inherit"
              >
                <EntryPlate entry={entry} />
                <Box sx={{ p: 1 }}>
                  <Typography variant="h2">{entry.name}</Typography>
                  <span className="path">{entry.internalName}</span>
                  <Typography variant="body2" color="text.secondary">
                    {`${entry.state}${entry.spoiler ? ', a spoiler' : ''}, first in ${entry.assets[0]?.firstBuild ?? 'no build'}`}
                  </Typography>
                </Box>
              </MuiLink>
            </Box>
          ))}
        </Box>
        {total > pageSize && (
          <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', mt: 1.5 }}>
            <Button disabled={page === 0} onClick={() => turnTo(page - 1)}>
              Previous
            </Button>
            <Typography>
              {`${(page * pageSize + 1).toLocaleString('en')} to ${Math.min(total, (page + 1) * pageSize).toLocaleString('en')} of ${total.toLocaleString('en')}`}
            </Typography>
            <Button disabled={(page + 1) * pageSize >= total} onClick={() => turnTo(page + 1)}>
              Next
            </Button>
          </Box>
        )}
      </Box>
      <PublishPanel />
    </Box>
  );
}

const panes = { publish: 'Publish', inbox: 'Inbox', site: 'Site' } as const;
type Pane = keyof typeof panes;

function PublishPanel(): ReactNode {
  const [parameters, set] = useAddress();
  const asked = parameters.get('pane') ?? '';
  const pane: Pane = asked in panes ? (asked as Pane) : 'publish';
  return (
    <Box component="aside" aria-label="Publishing" sx={sidePane(380)}>
      <PaneTabs
        label="Panes of publishing"
        panes={panes}
        shown={pane}
        onShow={(name) => set({ pane: name === 'publish' ? undefined : name })}
      />
      <Box sx={{ p: 2 }}>
        {pane === 'publish' && <PublishPane />}
        {pane === 'inbox' && <InboxPane />}
        {pane === 'site' && <SitePane />}
      </Box>
    </Box>
  );
}
