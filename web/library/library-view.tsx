import { Box, Button, Link as MuiLink, Typography } from '@mui/material';
import { useCallback, useState, type KeyboardEvent, type ReactNode } from 'react';
import { Link, Navigate, useNavigate } from 'react-router';
import { kindSchema } from '../../contract/kinds.ts';
import { bytesText, plural } from '../../core/figures.ts';
import { useProblemsQuery } from '../acquire/builds/api.ts';
import { stepOf, type Extent } from '../lists/steps.ts';
import { useSelection } from '../lists/use-selection.ts';
import { failureText } from '../ui/api.ts';
import { isForShortcut, isTyping } from '../ui/shortcuts.ts';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { TextFilter } from '../ui/text-filter.tsx';
import { Toggle } from '../ui/toggle.tsx';
import { useAddress } from '../ui/use-address.ts';
import { assetPath, usePlace, useSpan, viewPath, type Span } from '../ui/use-span.ts';
import type { PathsRequest } from './api.ts';
import { AssetGrid } from './asset-grid.tsx';
import { Bookmarks } from './bookmarks.tsx';
import { SelectionBar, useCollecting } from './collecting.tsx';
import { chosenColumns } from './columns.ts';
import { ColumnsMenu } from './columns-menu.tsx';
import { changeText, kindsText } from './counts-text.ts';
import { SearchForm } from './search-form.tsx';
import { useContents, type Contents, type ContentsQuery, type LibraryAsset } from './use-contents.ts';

/** Everything in one build: by folder, by words and figures, or by what belongs together. */
export function LibraryView(): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [parameters, set] = useAddress();
  const [hasForm, setForm] = useState(false);
  const build = span.to?.label ?? '';
  const parameter = (name: string): string => parameters.get(name) ?? '';
  if (build === '')
    return <Empty title="No build yet">Bring in a first build, and all that it holds stands here.</Empty>;
  const query: ContentsQuery = {
    channel: place.channel.id,
    build,
    isEverywhere: parameter('all') === '1',
    path: parameter('path'),
    text: parameter('text'),
    kind: parameter('kind'),
    sort: parameter('sort') || 'path',
    down: parameter('down') === '1' ? '1' : '0',
  };
  const view = parameter('view');
  // Where families were before they had a view of their own.
  if (view === 'families') {
    const asked = new URLSearchParams(parameters);
    asked.delete('view');
    return <Navigate to={`${viewPath(place, 'families')}?${asked}`} replace />;
  }
  const isSearch = query.text !== '' || query.kind !== '';
  const here = new URLSearchParams();
  for (const name of ['path', 'text', 'kind', 'all', 'view', 'cols', 'sort', 'down'])
    if (parameter(name) !== '') here.set(name, parameter(name));
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          px: 2,
          py: 0.5,
          borderBottom: 1,
          borderColor: 'divider',
          display: 'flex',
          columnGap: 1,
          alignItems: 'center',
          flexWrap: 'wrap',
        }}
      >
        <TextFilter
          value={query.text}
          onChange={(value) => set({ text: value })}
          label="heron ext:glb size:>10k"
          name={`Search ${query.isEverywhere ? 'all builds' : `build ${build}`}`}
        />
        <Toggle isOn={hasForm} onClick={() => setForm(!hasForm)}>
          Form
        </Toggle>
        <Toggle
          isOn={query.isEverywhere}
          onClick={() => set({ all: query.isEverywhere ? '' : '1' }, { replace: false })}
        >
          All builds
        </Toggle>
        {kindSchema.options.map((option) => (
          <Toggle
            key={option}
            isOn={query.kind === option}
            onClick={() => set({ kind: query.kind === option ? '' : option }, { replace: false })}
          >
            {option}
          </Toggle>
        ))}
        <Box sx={{ flex: 1 }} />
        <Box role="group" aria-label="Look" sx={{ display: 'flex' }}>
          {(
            [
              ['', 'Table'],
              ['sheet', 'Sheet'],
            ] as const
          ).map(([name, label]) => (
            <Toggle key={name} isOn={view === name} onClick={() => set({ view: name }, { replace: false })}>
              {label}
            </Toggle>
          ))}
        </Box>
        {hasForm && <SearchForm onSearch={(text) => set({ text }, { replace: false })} />}
      </Box>
      <Box
        sx={{ px: 2, borderBottom: 1, borderColor: 'divider', display: 'flex', alignItems: 'center', gap: 1 }}
      >
        {isSearch ? <Box sx={{ flex: 1 }} /> : <Crumbs path={query.path} span={span} />}
        <Bookmarks
          place={place}
          here={{ name: query.text || query.kind || query.path || 'the whole build', query: here.toString() }}
        />
        {view === '' && <ColumnsMenu named={parameters.get('cols')} onChange={(cols) => set({ cols })} />}
      </Box>
      <Problems build={build} channel={place.channel.id} />
      {/* Another question begins at the top, with nothing of the old one left over. */}
      <ContentsPane
        key={JSON.stringify(query)}
        query={query}
        isSheet={view === 'sheet'}
        cols={parameters.get('cols')}
        span={span}
        set={set}
      />
    </Box>
  );
}

interface PaneProps {
  query: ContentsQuery;
  isSheet: boolean;
  cols: string | null;
  span: Span;
  set: ReturnType<typeof useAddress>[1];
}

function ContentsPane({ query, isSheet, cols, span, set }: PaneProps): ReactNode {
  const place = usePlace();
  const navigate = useNavigate();
  const contents = useContents(query);
  const { folders, load, at } = contents;
  const isSearch = query.text !== '' || query.kind !== '';
  const pathsBetween = useCallback(
    async (first: number, last: number): Promise<string[]> => {
      const [begin, end] = [Math.max(0, first - folders.length), last - folders.length];
      if (end < 0) return [];
      await load(begin, end);
      const paths: string[] = [];
      for (let index = begin; index <= end; index++) {
        const path = at(index)?.path;
        if (path !== undefined) paths.push(path);
      }
      return paths;
    },
    [folders, load, at],
  );
  const selection = useSelection(pathsBetween);
  const request: PathsRequest = {
    channel: query.channel,
    build: query.build,
    ...(isSearch ? { text: query.text, kind: query.kind } : { folder: query.path }),
  };
  const collecting = useCollecting(request);
  const folderTo = (path: string): string => {
    const parameters = new URLSearchParams(window.location.search);
    parameters.set('to', query.build);
    parameters.set('path', path);
    return `${viewPath(place, 'library')}?${parameters}`;
  };
  const assetTo = (asset: LibraryAsset): string => assetPath(place, span, asset.path, asset.build);
  const onOpen = (index: number): void => {
    const folder = folders[index];
    const asset = at(index - folders.length);
    if (folder) void navigate(folderTo(folder.path));
    else if (asset) void navigate(assetTo(asset));
  };
  const count = folders.length + contents.total;
  const onKeyDown = (event: KeyboardEvent, extent: Extent): void => {
    const isTicking = event.key === ' ' && isTyping(event.target);
    if (!isTicking && !isForShortcut(event)) return;
    const { active } = selection;
    const step = stepOf(event.key, extent, count);
    const path = at(active - folders.length)?.path;
    const chosen = selection.paths.size > 0 ? [...selection.paths] : path === undefined ? [] : [path];
    if (step !== undefined) {
      const to = Math.max(0, Math.min(count - 1, active + step));
      if (event.shiftKey) void selection.extendTo(to);
      else selection.moveTo(to);
    } else if (event.key === 'Enter') onOpen(active);
    else if (event.key === ' ' && path !== undefined) selection.toggle(active, path);
    else if (event.key === 'h' && chosen.length > 0) void collecting.collect(chosen);
    else if (event.key === 'p' && chosen.length > 0) void collecting.copy(chosen, false);
    else if (event.key === 'P' && chosen.length > 0) void collecting.copy(chosen, true);
    else if (event.key === 'Escape') selection.clear();
    else return;
    event.preventDefault();
  };
  if (contents.error && count === 0)
    return <Failure text={failureText(contents.error)} onRetry={contents.retry} />;
  if (contents.isLoading && count === 0) return <Loading what="the library" />;
  if (count === 0) return <Empty title="Nothing here">No asset matches; take a word or a kind away.</Empty>;
  return (
    <>
      <Summary
        contents={contents}
        isSearch={isSearch}
        onCollect={() => void collecting.collect(null)}
        onCopy={(isBare) => void collecting.copy(null, isBare)}
      />
      <AssetGrid
        contents={contents}
        columns={chosenColumns(cols)}
        isSheet={isSheet}
        hasPaths={isSearch}
        sort={query.sort}
        isDescending={query.down === '1'}
        onSort={(sort) => {
          const isSame = sort === query.sort;
          // Figures are looked at from the largest down: it is likely the most detailed one.
          const isFigure = !['path', 'name', 'kind', 'first seen'].includes(sort);
          const down = isSame ? query.down === '0' : isFigure;
          set({ sort: sort === 'path' ? '' : sort, down: down ? '1' : '' });
        }}
        selection={selection}
        folderTo={folderTo}
        assetTo={assetTo}
        onOpen={onOpen}
        onKeyDown={onKeyDown}
      />
      <SelectionBar selection={selection} collecting={collecting} />
    </>
  );
}

/** What a folder or an archive holds at a glance, or how much was found. */
function Summary({
  contents: { counts, folders, total, isCut },
  isSearch,
  onCollect,
  onCopy,
}: {
  contents: Contents;
  isSearch: boolean;
  onCollect: () => void;
  onCopy: (isBare: boolean) => void;
}): ReactNode {
  const change = counts ? changeText(counts) : '';
  const text = counts
    ? `${plural(counts.files, 'file')}, ${bytesText(counts.bytes)}: ${kindsText(counts)}${change === '' ? '' : `; ${change} since the build before`}`
    : `${isCut ? 'more than ' : ''}${plural(total, 'asset')}${folders.length > 0 ? ` in ${plural(folders.length, 'folder')}` : ''}`;
  return (
    <Box
      sx={{
        px: 2,
        display: 'flex',
        alignItems: 'center',
        gap: 0.5,
        borderBottom: 1,
        borderColor: 'divider',
        minHeight: 30,
      }}
    >
      <Typography role="status" variant="body2" sx={{ flex: 1, minWidth: 0 }} noWrap title={text}>
        {text}
      </Typography>
      <Button onClick={onCollect}>{isSearch ? 'Add all found to the haul' : 'Add all to the haul'}</Button>
      <Button onClick={() => onCopy(false)}>Copy paths</Button>
      <Button onClick={() => onCopy(true)}>without extension</Button>
    </Box>
  );
}

function Crumbs({ path, span }: { path: string; span: Span }): ReactNode {
  const place = usePlace();
  const to = (part: string): string =>
    `${viewPath(place, 'library')}?to=${encodeURIComponent(span.to?.label ?? '')}&path=${encodeURIComponent(part)}`;
  const parts = path === '' ? [] : path.split('/');
  return (
    <Box
      component="nav"
      aria-label="Folder"
      className="path"
      sx={{ flex: 1, minWidth: 0, py: 0.5, overflowWrap: 'anywhere' }}
    >
      <MuiLink component={Link} to={to('')}>
        {`build ${span.to?.label ?? ''}`}
      </MuiLink>
      {parts.map((part, index) => (
        <span key={index}>
          {' / '}
          <MuiLink
            component={Link}
            to={to(
              parts
                .slice(0, index + 1)
                .join('/')
                .replace(/!$/, ''),
            )}
          >
            {part.replace(/!$/, '')}
          </MuiLink>
        </span>
      ))}
    </Box>
  );
}

function Problems({ build, channel }: { build: string; channel: number }): ReactNode {
  const { data: problems } = useProblemsQuery({ channel, build });
  if (!problems || problems.length === 0) return null;
  const locked = problems.filter((problem) => problem.locked).length;
  return (
    <Box component="details" sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider' }}>
      <summary>
        {`${plural(problems.length, 'problem')} in this build${locked > 0 ? `, ${locked.toLocaleString('en')} of them locked` : ''}`}
      </summary>
      {locked > 0 && (
        <Typography variant="body2">
          <Link to="/work/keyring">Keys</Link> open what is locked.
        </Typography>
      )}
      <Box sx={{ maxHeight: 180, overflow: 'auto' }}>
        {problems.map(({ path, reason }) => (
          <Typography key={path} variant="body2" sx={{ overflowWrap: 'anywhere' }}>
            <span className="path">{path}</span>
            {`: ${reason}`}
          </Typography>
        ))}
      </Box>
    </Box>
  );
}
