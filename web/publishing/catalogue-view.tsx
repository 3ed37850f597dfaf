import { paneRow, sidePane } from '../ui/side-pane.ts';
import { Box, Link as MuiLink, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Link, useParams } from 'react-router';
import { entryStateSchema, type Entry } from '../../contract/catalogue.ts';
import { Toggle } from '../ui/toggle.tsx';
import { failureText } from '../ui/api.ts';
import { PaneTabs } from '../ui/pane-tabs.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAddress } from '../ui/use-address.ts';
import { usePlace, viewPath } from '../ui/use-span.ts';
import { useEntriesQuery } from './api.ts';
import { PublishPane } from './editions/publish-pane.tsx';
import { SitePane } from './editions/site-pane.tsx';
import { EntryPage } from './entry-page.tsx';
import { EntryPlate } from './entry-plate.tsx';

const states = entryStateSchema.options;

export function CatalogueView(): ReactNode {
  const { item: entryId } = useParams();
  const { channel } = usePlace();
  const { data: entries, error, refetch } = useEntriesQuery(channel.id);
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!entries) return <Loading what="the catalogue" />;
  if (entryId !== undefined) {
    const entry = entries.find(({ id }) => String(id) === entryId);
    return entry ? (
      <EntryPage key={`${entry.id} ${entry.revision}`} entry={entry} />
    ) : (
      <Empty title="There is no such entry">It may have been taken away.</Empty>
    );
  }
  return <EntryList entries={entries} />;
}

function EntryList({ entries }: { entries: readonly Entry[] }): ReactNode {
  const place = usePlace();
  const [parameters, set] = useAddress();
  const state = parameters.get('state') ?? '';
  const shown = entries.filter((entry) => state === '' || entry.state === state);
  const choose = (value: string): void => set({ state: value === state ? '' : value });
  return (
    <Box sx={paneRow}>
      <Box sx={{ flex: 1, overflow: 'auto', p: 2 }}>
        <Box sx={{ display: 'flex', gap: 0.5, alignItems: 'baseline', mb: 1.5 }}>
          <Typography variant="h1" sx={{ mr: 2 }}>
            Catalogue
          </Typography>
          {states.map((option) => (
            <Toggle key={option} isOn={state === option} onClick={() => choose(option)}>
              {`${option} ${entries.filter((entry) => entry.state === option).length}`}
            </Toggle>
          ))}
        </Box>
        {entries.length === 0 && (
          <Empty title="No entry yet">
            Open an asset, and start one from there: its path, facts and note come along.
          </Empty>
        )}
        {entries.length > 0 && shown.length === 0 && <Empty title={`No entry is ${state}`} />}
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
      </Box>
      <PublishPanel />
    </Box>
  );
}

const panes = { publish: 'Publish', site: 'Site' } as const;
type Pane = keyof typeof panes;

function PublishPanel(): ReactNode {
  const [parameters, set] = useAddress();
  const pane: Pane = parameters.get('pane') === 'site' ? 'site' : 'publish';
  return (
    <Box component="aside" aria-label="Publishing" sx={sidePane(380)}>
      <PaneTabs
        label="Panes of publishing"
        panes={panes}
        shown={pane}
        onShow={(name) => set({ pane: name === 'publish' ? undefined : name })}
      />
      <Box sx={{ p: 2 }}>{pane === 'publish' ? <PublishPane /> : <SitePane />}</Box>
    </Box>
  );
}
