import { Box, Link as MuiLink, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { kindSchema } from '../../contract/kinds.ts';
import { plural } from '../../core/findings/evidence.ts';
import { useAssetListQuery, useFolderQuery } from '../assets/api.ts';
import { useProblemsQuery } from '../builds/api.ts';
import { TextFilter } from '../shell/text-filter.tsx';
import { Toggle } from '../shell/toggle.tsx';
import { failureText } from '../shell/api.ts';
import { Empty, Failure, Loading } from '../shell/states.tsx';
import { Rows } from './library-rows.tsx';
import { SearchForm } from './search-form.tsx';
import { useAddress } from '../shell/use-address.ts';
import { usePlace, useSpan, viewPath, type Span } from '../shell/use-span.ts';

const limit = 500;

/** Everything in one build: by folder, or by words and kind. */
export function LibraryView(): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const [parameters, set] = useAddress();
  const build = span.to?.label ?? '';
  const path = parameters.get('path') ?? '';
  const text = parameters.get('text') ?? '';
  const kind = parameters.get('kind') ?? '';
  const isSearch = text !== '' || kind !== '';
  const where = { channel: place.channel.id, build };
  const folder = useFolderQuery({ ...where, path, offset: 0, limit }, { skip: build === '' || isSearch });
  const isEverywhere = parameters.get('all') === '1';
  const [hasForm, setForm] = useState(false);
  const list = useAssetListQuery(
    { ...where, build: isEverywhere ? '' : build, text, kind, offset: 0, limit },
    { skip: build === '' || !isSearch },
  );
  if (build === '')
    return <Empty title="No build yet">Bring in a first build, and all that it holds stands here.</Empty>;
  const current = isSearch ? list : folder;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Box
        sx={{
          px: 2,
          py: 0.75,
          borderBottom: 1,
          borderColor: 'divider',
          display: 'flex',
          gap: 1,
          alignItems: 'center',
          flexWrap: 'wrap',
        }}
      >
        <TextFilter
          key={`${build} ${hasForm ? text : ''}`}
          value={text}
          onChange={(value) => set({ text: value })}
          label={`heron ext:glb size:>10k`}
          name={`Search ${isEverywhere ? 'all builds' : `build ${build}`}`}
        />
        <Toggle isOn={hasForm} onClick={() => setForm(!hasForm)}>
          Form
        </Toggle>
        <Toggle isOn={isEverywhere} onClick={() => set({ all: isEverywhere ? '' : '1' }, { replace: false })}>
          All builds
        </Toggle>
        {kindSchema.options.map((option) => (
          <Toggle
            key={option}
            isOn={kind === option}
            onClick={() => set({ kind: kind === option ? '' : option }, { replace: false })}
          >
            {option}
          </Toggle>
        ))}
        {hasForm && <SearchForm onSearch={(query) => set({ text: query }, { replace: false })} />}
      </Box>
      {!isSearch && <Crumbs path={path} span={span} />}
      <Problems build={build} channel={place.channel.id} />
      {current.isLoading && <Loading what="the library" />}
      {current.error && <Failure text={failureText(current.error)} onRetry={() => void current.refetch()} />}
      {isSearch && list.data && (
        <Rows
          span={span}
          folders={[]}
          assets={list.data.assets}
          total={list.data.total}
          isCut={list.data.isCut}
          hasPaths
        />
      )}
      {!isSearch && folder.data && (
        <Rows
          span={span}
          folders={folder.data.folders}
          assets={folder.data.assets}
          total={folder.data.total}
          hasPaths={false}
        />
      )}
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
      sx={{ px: 2, py: 0.75, borderBottom: 1, borderColor: 'divider', overflowWrap: 'anywhere' }}
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
