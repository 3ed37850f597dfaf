import DarkModeOutlinedIcon from '@mui/icons-material/DarkModeOutlined';
import LightModeOutlinedIcon from '@mui/icons-material/LightModeOutlined';
import { Box, IconButton, MenuItem, Select, Tooltip, Typography, useTheme } from '@mui/material';
import { useEffect, type ReactNode } from 'react';
import { Link, NavLink, useLocation, useNavigate } from 'react-router';
import type { Title } from '../../contract/builds.ts';
import { isTyping } from '../ui/is-typing.ts';
import { modeChosen, useAppDispatch, useAppSelector } from '../ui/store.ts';
import { serif } from '../ui/theme.ts';
import { viewPath, type Place } from '../ui/use-span.ts';

const views = [
  ['news', 'News'],
  ['findings', 'Findings'],
  ['library', 'Library'],
  ['names', 'Names'],
  ['links', 'Links'],
  ['recipes', 'Recipes'],
  ['haul', 'Haul'],
  ['catalogue', 'Catalogue'],
] as const;

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
  const { search } = useLocation();
  const place = useLastPlace(titles, here);
  const parameters = new URLSearchParams(search);
  const span = new URLSearchParams();
  for (const name of ['from', 'to']) if (parameters.has(name)) span.set(name, parameters.get(name) ?? '');
  useGoKeys(place, span.toString());
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column', bgcolor: 'background.default' }}>
      <Box
        component="header"
        sx={{
          display: 'flex',
          alignItems: 'center',
          gap: 2.5,
          px: 2,
          height: 46,
          borderBottom: 1,
          borderColor: 'divider',
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
        <Box component="nav" aria-label="Views" sx={{ display: 'flex', gap: 2, height: '100%' }}>
          {place &&
            views.map(([view, name]) => (
              <Way key={view} to={`${viewPath(place, view)}?${span}`} name={name} />
            ))}
          <WorkWay />
        </Box>
        <Box sx={{ flex: 1 }} />
        <Way to="/keys" name="Keyboard" />
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

function Way({ to, name }: { to: string; name: string }): ReactNode {
  return (
    <Box
      component={NavLink}
      to={to}
      sx={{
        color: 'text.primary',
        textDecoration: 'none',
        height: 45,
        display: 'flex',
        alignItems: 'center',
        borderBottom: 2,
        borderColor: 'transparent',
        '&.active': { borderColor: 'primary.main', fontWeight: 700 },
        '&:hover': { color: 'primary.main' },
      }}
    >
      {name}
    </Box>
  );
}

function WorkWay(): ReactNode {
  const { jobs, isLive, isKnown } = useAppSelector(({ work }) => work);
  const running = jobs.filter(({ state }) => state === 'running' || state === 'waiting').length;
  const state =
    isKnown && !isLive ? 'Work (no connection)' : running > 0 ? `Work (${running} running)` : 'Work';
  return <Way to="/work" name={state} />;
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
    <Select
      variant="standard"
      disableUnderline
      value={place ? viewPath(place, 'findings') : ''}
      displayEmpty
      inputProps={{ 'aria-label': 'Title and channel' }}
      onChange={({ target }) => void navigate(target.value)}
      sx={{ fontFamily: serif, fontStyle: 'italic' }}
    >
      {options.map((option) => (
        <MenuItem key={option.channel.id} value={viewPath(option, 'findings')}>
          {isAlone ? option.title.name : `${option.title.name}, ${option.channel.name}`}
        </MenuItem>
      ))}
    </Select>
  );
}

function ModeButton(): ReactNode {
  const { palette } = useTheme();
  const dispatch = useAppDispatch();
  const next = palette.mode === 'light' ? 'dark' : 'light';
  return (
    <Tooltip title={next === 'dark' ? 'Night' : 'Day'}>
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
    </Tooltip>
  );
}

/** `?` for the page of keys, and `g` with a letter for a view. */
function useGoKeys(place: Pick<Place, 'title' | 'channel'> | null, span: string): void {
  const navigate = useNavigate();
  useEffect(() => {
    let goAtMs = 0;
    const onKey = (event: globalThis.KeyboardEvent): void => {
      if (event.ctrlKey || event.metaKey || event.altKey || (event.target && isTyping(event.target))) return;
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
