import { Box, CssBaseline, GlobalStyles, ThemeProvider, useMediaQuery } from '@mui/material';
import { SnackbarProvider } from 'notistack';
import { useMemo, type ReactNode } from 'react';
import { Navigate, Route, Routes, useParams } from 'react-router';
import type { Title } from '../../contract/builds.ts';
import { AssetView } from '../library/assets/asset-view.tsx';
import { useTitlesQuery } from '../acquire/builds/api.ts';
import { LineOfBuilds } from '../acquire/builds/line-of-builds.tsx';
import { NewBuild } from '../acquire/builds/new-build.tsx';
import { CatalogueView } from '../publishing/catalogue-view.tsx';
import { FindingsView } from '../changes/findings/findings-view.tsx';
import { CompareView } from '../changes/compare/compare-view.tsx';
import { NewsView } from '../changes/news/news-view.tsx';
import { NoiseView } from '../changes/noise/noise-view.tsx';
import { StoreView } from '../maintenance/store-view.tsx';
import { HaulView } from '../hauls/haul-view.tsx';
import { KeyringView } from '../acquire/keyring/keyring-view.tsx';
import { LibraryView } from '../library/library-view.tsx';
import { NamesView } from '../library/names/names-view.tsx';
import { RecipesView } from '../library/recipes/recipes-view.tsx';
import { LinksView } from '../library/references/links-view.tsx';
import { WaysInView } from '../acquire/ways-in/ways-in-view.tsx';
import { useWorkEvents } from '../jobs/api.ts';
import { WorkView } from '../jobs/work-view.tsx';
import { failureText } from '../ui/api.ts';
import { Frame } from './frame.tsx';
import { KeysView } from './keys-view.tsx';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { useAppSelector } from '../ui/store.ts';
import { createLook } from '../ui/theme.ts';
import { PlaceContext, viewPath, type Place } from '../ui/use-span.ts';

export function App(): ReactNode {
  const choice = useAppSelector(({ look }) => look.mode);
  const prefersDark = useMediaQuery('(prefers-color-scheme: dark)', { noSsr: true });
  const mode = choice === 'system' ? (prefersDark ? 'dark' : 'light') : choice;
  const look = useMemo(() => createLook(mode), [mode]);
  return (
    <ThemeProvider theme={look}>
      <CssBaseline />
      <GlobalStyles styles={{ ':root': { '--accent': look.palette.primary.main, colorScheme: mode } }} />
      <SnackbarProvider maxSnack={2} autoHideDuration={2500}>
        <Views />
      </SnackbarProvider>
    </ThemeProvider>
  );
}

function Views(): ReactNode {
  useWorkEvents();
  const { data: titles, error, refetch } = useTitlesQuery();
  if (error && !titles) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!titles) return <Loading what="the titles" />;
  const plain = (view: ReactNode): ReactNode => (
    <Frame titles={titles} place={null}>
      <Main>{view}</Main>
    </Frame>
  );
  return (
    <Routes>
      <Route path="/" element={<Start titles={titles} />} />
      <Route path="/new" element={plain(<NewBuild />)} />
      <Route path="/work" element={plain(<WorkView />)} />
      <Route path="/work/ways-in" element={plain(<WaysInView titles={titles} />)} />
      <Route path="/work/keyring" element={plain(<KeyringView titles={titles} />)} />
      <Route path="/work/store" element={plain(<StoreView />)} />
      <Route path="/keys" element={plain(<KeysView />)} />
      <Route path="/:title/:channel/:view/:item?" element={<PlaceView titles={titles} />} />
      <Route
        path="*"
        element={plain(<Empty title="There is nothing at this address">Choose a title above.</Empty>)}
      />
    </Routes>
  );
}

/** Straight to the newest update; to the form where there is no build yet. */
function Start({ titles }: { titles: readonly Title[] }): ReactNode {
  const indexed = titles.flatMap((title) =>
    title.channels.flatMap((channel) =>
      channel.builds.filter(({ sequence }) => sequence !== null).map((build) => ({ title, channel, build })),
    ),
  );
  const newest = indexed.sort((a, b) => (b.build.indexedAt ?? '').localeCompare(a.build.indexedAt ?? ''))[0];
  return <Navigate to={newest ? viewPath(newest, 'findings') : '/new'} replace />;
}

function PlaceView({ titles }: { titles: readonly Title[] }): ReactNode {
  const { title: titleName, channel: channelName, view, item } = useParams();
  const place = useMemo((): Place | null => {
    const title = titles.find(({ name }) => name === titleName);
    const channel = title?.channels.find(({ name }) => name === channelName);
    return title && channel
      ? { title, channel, builds: channel.builds.filter(({ sequence }) => sequence !== null) }
      : null;
  }, [titles, titleName, channelName]);
  if (!place) {
    return (
      <Frame titles={titles} place={null}>
        <Main>
          <Empty title={`There is no title ${titleName ?? ''} with a channel ${channelName ?? ''}`}>
            Choose one above.
          </Empty>
        </Main>
      </Frame>
    );
  }
  const inPlace: Record<string, ReactNode> = {
    findings: <FindingsView />,
    news: <NewsView />,
    noise: <NoiseView />,
    compare: <CompareView />,
    library: <LibraryView />,
    asset: <AssetView />,
    names: <NamesView />,
    links: <LinksView />,
    recipes: <RecipesView />,
    haul: <HaulView />,
    catalogue: <CatalogueView entryId={item} />,
    new: <NewBuild title={place.title} channel={place.channel} />,
  };
  return (
    <PlaceContext.Provider value={place}>
      <Frame titles={titles} place={place}>
        <LineOfBuilds />
        <Main>
          {inPlace[view ?? ''] ?? (
            <Empty title="There is nothing at this address">Choose a view above.</Empty>
          )}
        </Main>
      </Frame>
    </PlaceContext.Provider>
  );
}

/** What the page is about, below the frame: a view, or why there is none. */
function Main({ children }: { children: ReactNode }): ReactNode {
  return (
    <Box component="main" sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      {children}
    </Box>
  );
}
