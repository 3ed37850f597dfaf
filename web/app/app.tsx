import {
  Box,
  Button,
  CssBaseline,
  GlobalStyles,
  ThemeProvider,
  Typography,
  useMediaQuery,
} from '@mui/material';
import { SnackbarProvider } from 'notistack';
import { Suspense, useMemo, type ReactNode } from 'react';
import { ErrorBoundary, type FallbackProps } from 'react-error-boundary';
import { Navigate, Route, Routes, useLocation, useParams } from 'react-router';
import type { Title } from '../../contract/builds.ts';
import { useTitlesQuery } from '../acquire/builds/api.ts';
import { LineOfBuilds } from '../acquire/builds/line-of-builds.tsx';
import { useWorkEvents } from '../jobs/api.ts';
import { useChangeEvents } from '../people/api.ts';
import { failureText } from '../ui/api.ts';
import { Frame } from './frame.tsx';
import { plainViews, viewAt } from './views.tsx';
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
  useChangeEvents();
  const { data: titles, error, refetch } = useTitlesQuery();
  if (error && !titles) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!titles) return <Loading what="the titles" />;
  return (
    <Routes>
      <Route path="/" element={<Start titles={titles} />} />
      {plainViews.map(({ path, name, View }) => (
        <Route
          key={path}
          path={path}
          element={
            <Frame titles={titles} place={null}>
              <Main name={name}>
                <View />
              </Main>
            </Frame>
          }
        />
      ))}
      <Route path="/:title/:channel/:view/:item?" element={<PlaceView titles={titles} />} />
      <Route
        path="*"
        element={
          <Frame titles={titles} place={null}>
            <Main name="Nothing here">
              <Empty title="There is nothing at this address">Choose a title above.</Empty>
            </Main>
          </Frame>
        }
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
        <Main name="Nothing here">
          <Empty title={`There is no title ${titleName ?? ''} with a channel ${channelName ?? ''}`}>
            Choose one above.
          </Empty>
        </Main>
      </Frame>
    );
  }
  const shown = viewAt(view ?? '');
  return (
    <PlaceContext.Provider value={place}>
      <Frame titles={titles} place={place}>
        <LineOfBuilds />
        <Main name={`${shown?.name ?? 'Nothing here'}, ${place.title.name}`}>
          {shown ? (
            <shown.View key={item ?? ''} />
          ) : (
            <Empty title="There is nothing at this address">Choose a view above.</Empty>
          )}
        </Main>
      </Frame>
    </PlaceContext.Provider>
  );
}

/** What the page is about, below the frame: a view, or why there is none. What fails in it leaves the frame standing. */
function Main({ name, children }: { name: string; children: ReactNode }): ReactNode {
  const { pathname } = useLocation();
  return (
    <Box
      component="main"
      id="main"
      tabIndex={-1}
      sx={{ flex: 1, minHeight: 0, minWidth: 0, display: 'flex', flexDirection: 'column', outline: 'none' }}
    >
      <title>{`${name} – Worvel`}</title>
      <ErrorBoundary FallbackComponent={ViewFailure} resetKeys={[pathname]}>
        <Suspense fallback={<Loading what={name.toLowerCase()} />}>{children}</Suspense>
      </ErrorBoundary>
    </Box>
  );
}

/** A view that broke. Where its script is gone, the server has another version by now than the page that is open. */
function ViewFailure({ error, resetErrorBoundary }: FallbackProps): ReactNode {
  const text = error instanceof Error ? error.message : String(error);
  if (/dynamically imported module|Importing a module script failed|error loading/i.test(text))
    return (
      <Box role="alert" sx={{ p: 4 }}>
        <Typography variant="h2" gutterBottom>
          There is a new version of Worvel
        </Typography>
        <Typography sx={{ mb: 1.5 }}>
          This page is of the version before, and cannot load its other parts any more.
        </Typography>
        <Button variant="contained" onClick={() => window.location.reload()}>
          Load the page again
        </Button>
      </Box>
    );
  return <Failure text={`This view broke: ${text}`} onRetry={resetErrorBoundary} />;
}
