import DarkModeOutlinedIcon from '@mui/icons-material/DarkModeOutlined';
import LightModeOutlinedIcon from '@mui/icons-material/LightModeOutlined';
import { Box, IconButton, NativeSelect, Typography, useTheme } from '@mui/material';
import { useEffect, type ReactNode } from 'react';
import { Link, NavLink, useLocation, useNavigate } from 'react-router';
import type { Title } from '../../contract/builds.ts';
import { Tip } from '../ui/tip.tsx';
import { isForShortcut } from '../ui/shortcuts.ts';
import { channelGroups, groupOf, workGroup } from './views.tsx';
import { modeChosen, useAppDispatch, useAppSelector } from '../ui/store.ts';
import { serif } from '../ui/theme.ts';
import { viewPath, type Place } from '../ui/use-span.ts';

/** The frame around all views: title and channel, the ways to go, and what is being worked on. */
export function Frame({
  titles,
  place: here,
  children,
}: {
  titles: readonly Title[];
  place: Place | null;
  children: ReactNode;
}): ReactNode {
  const { search, pathname } = useLocation();
  const place = useLastPlace(titles, here);
  const parameters = new URLSearchParams(search);
  const span = new URLSearchParams();
  for (const name of ['from', 'to']) if (parameters.has(name)) span.set(name, parameters.get(name) ?? '');
  useGoKeys(place, span.toString());
  const isWork = pathname.startsWith('/work');
  const group = isWork ? workGroup : here ? groupOf(pathname.split('/')[3] ?? '') : null;
  const addressOf = (path: string): string =>
    path.startsWith('/') ? path : place ? `${viewPath(place, path)}?${span}` : '/';
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', bgcolor: 'background.default' }}>
      <Box
        component="a"
        href="#main"
        onClick={() => document.getElementById('main')?.focus()}
        sx={{
          position: 'absolute',
          left: -9999,
          bgcolor: 'background.paper',
          px: 1.5,
          py: 1,
          zIndex: 2000,
          '&:focus': { left: 8, top: 4 },
        }}
      >
        Skip to the view
      </Box>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          columnGap: { xs: 1.25, lg: 2.5 },
          px: { xs: 1, md: 2 },
          minHeight: 42,
          borderBottom: 1,
          borderColor: 'divider',
          flexWrap: 'wrap',
        }}
      >
        <Typography
          component={Link}
          to="/"
          sx={{
            fontFamily: serif,
            fontSize: '1.2rem',
            fontWeight: 600,
            color: 'text.primary',
            textDecoration: 'none',
          }}
        >
          Worvel
        </Typography>
        <PlaceChoice titles={titles} place={place} />
        <Box component="nav" aria-label="Work" sx={{ display: 'flex', gap: { xs: 1.25, lg: 2 } }}>
          {place &&
            channelGroups.map(({ name, views: [first] }) => (
              <Way
                key={name}
                to={addressOf(first?.path ?? '')}
                name={name}
                isActive={!isWork && group?.name === name}
              />
            ))}
          <WorkWay isActive={isWork} />
        </Box>
        {group && group.views.length > 1 && (
          <Box
            component="nav"
            aria-label={`${group.name}, views`}
            sx={{
              display: 'flex',
              gap: { xs: 1.25, lg: 1.75 },
              pl: { xs: 0, md: 2 },
              borderLeft: { xs: 0, md: 1 },
              borderColor: { md: 'divider' },
            }}
          >
            {group.views.map(({ path, name }) => (
              <Way key={path} to={addressOf(path)} name={name} isInner />
            ))}
          </Box>
        )}
        <Box sx={{ flex: 1 }} />
        {here && <ReadingState place={here} />}
        <Way to="/keys" name="Keyboard" isInner />
        <ModeButton />
      </Box>
      {children}
    </Box>
  );
}

/** Pages outside of a title keep the ways back to the one that was looked at last. */
function useLastPlace(
  titles: readonly Title[],
  here: Pick<Place, 'title' | 'channel'> | null,
): Pick<Place, 'title' | 'channel'> | null {
  const id = here?.channel.id ?? Number(sessionStorage.getItem('channel'));
  useEffect(() => {
    if (here) sessionStorage.setItem('channel', String(here.channel.id));
  }, [here]);
  if (here) return here;
  const options = titles.flatMap((title) => title.channels.map((channel) => ({ title, channel })));
  return options.find(({ channel }) => channel.id === id) ?? options[0] ?? null;
}

/** @param isActive for a group, which is where one of its views is; a view knows by its address */
function Way({
  to,
  name,
  isActive,
  isInner = false,
}: {
  to: string;
  name: string;
  isActive?: boolean;
  isInner?: boolean;
}): ReactNode {
  const looks = {
    color: 'text.primary',
    textDecoration: 'none',
    height: { xs: 34, md: 41 },
    display: 'flex',
    alignItems: 'center',
    fontSize: isInner ? '0.92rem' : '1rem',
    borderBottom: 2,
    borderColor: 'transparent',
    whiteSpace: 'nowrap',
    '&.active, &[data-active="true"]': { borderColor: 'primary.main', fontWeight: 700 },
    '&:hover': { color: 'primary.main' },
  } as const;
  return isActive === undefined ? (
    <Box component={NavLink} to={to} end sx={looks}>
      {name}
    </Box>
  ) : (
    <Box
      component={Link}
      to={to}
      data-active={isActive}
      aria-current={isActive ? 'true' : undefined}
      sx={looks}
    >
      {name}
    </Box>
  );
}

/** How far reading is in the channel that is shown: what is in the views gets better as it goes on. */
function ReadingState({ place: { title, channel } }: { place: Place }): ReactNode {
  const job = useAppSelector(({ work }) =>
    work.jobs.find(
      ({ kind, state, ...job }) =>
        kind === 'read' && state === 'running' && job.title === title.name && job.channel === channel.name,
    ),
  );
  const progress = job?.progress;
  if (!progress?.totalFiles) return null;
  return (
    <Box component="span" role="status" sx={{ fontSize: '0.85rem', color: 'text.secondary' }}>
      {`facts of ${progress.files.toLocaleString('en')} of ${progress.totalFiles.toLocaleString('en')} files`}
    </Box>
  );
}

function WorkWay({ isActive }: { isActive: boolean }): ReactNode {
  const { jobs, isLive, isKnown } = useAppSelector(({ work }) => work);
  const running = jobs.filter(({ state }) => state === 'running' || state === 'waiting').length;
  const state =
    isKnown && !isLive ? 'Work (no connection)' : running > 0 ? `Work (${running} running)` : 'Work';
  return <Way to="/work" name={state} isActive={isActive} />;
}

function PlaceChoice({
  titles,
  place,
}: {
  titles: readonly Title[];
  place: Pick<Place, 'title' | 'channel'> | null;
}): ReactNode {
  const navigate = useNavigate();
  const options = titles.flatMap((title) => title.channels.map((channel) => ({ title, channel })));
  if (options.length === 0) return null;
  const isAlone = options.every(({ channel }) => channel.name === 'main');
  return (
    <NativeSelect
      disableUnderline
      value={place ? viewPath(place, 'findings') : ''}
      inputProps={{ 'aria-label': 'Title and channel' }}
      onChange={({ target }) => void navigate(target.value)}
      sx={{ fontFamily: serif, fontStyle: 'italic', maxWidth: 240 }}
    >
      {options.map((option) => (
        <option key={option.channel.id} value={viewPath(option, 'findings')}>
          {isAlone ? option.title.name : `${option.title.name}, ${option.channel.name}`}
        </option>
      ))}
    </NativeSelect>
  );
}

function ModeButton(): ReactNode {
  const { palette } = useTheme();
  const dispatch = useAppDispatch();
  const next = palette.mode === 'light' ? 'dark' : 'light';
  return (
    <Tip title={next === 'dark' ? 'Night' : 'Day'}>
      <IconButton
        aria-label={`Use the ${next} look`}
        color="inherit"
        onClick={() => dispatch(modeChosen(next))}
      >
        {next === 'dark' ? (
          <DarkModeOutlinedIcon fontSize="small" />
        ) : (
          <LightModeOutlinedIcon fontSize="small" />
        )}
      </IconButton>
    </Tip>
  );
}

/** `?` for the page of keys, and `g` with a letter for a view. */
function useGoKeys(place: Pick<Place, 'title' | 'channel'> | null, span: string): void {
  const navigate = useNavigate();
  useEffect(() => {
    let goAtMs = 0;
    const onKey = (event: globalThis.KeyboardEvent): void => {
      if (!isForShortcut(event)) return;
      if (event.key === '?') void navigate('/keys');
      if (Date.now() - goAtMs < 1500) {
        const view = {
          f: 'findings',
          u: 'news',
          l: 'library',
          n: 'names',
          r: 'links',
          h: 'haul',
          c: 'catalogue',
        }[event.key];
        if (event.key === 'w') void navigate('/work');
        else if (view && place) void navigate(`${viewPath(place, view)}?${span}`);
        // Views have uses of their own for some of these letters.
        if (event.key === 'w' || view) event.stopPropagation();
      }
      goAtMs = event.key === 'g' ? Date.now() : 0;
    };
    window.addEventListener('keydown', onKey, true);
    return () => window.removeEventListener('keydown', onKey, true);
  }, [navigate, place, span]);
}
