import { Box, MenuItem, TextField, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { PlacementRecipe, Trial } from '../../../contract/recipes.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { Loading } from '../../ui/states.tsx';
import { usePaused } from '../../ui/use-paused.ts';
import { useTryRecipeQuery } from './api.ts';

interface Props {
  where: { channel: number; build: string };
  recipe: PlacementRecipe;
  path: string;
  onPath: (path: string) => void;
}

/** What comes of a recipe on one file, while it is written. */
export function TrialPane({ where, recipe, path, onPath }: Props): ReactNode {
  const tried = usePaused(recipe, 300);
  const { data, error, isFetching } = useTryRecipeQuery({ ...where, recipe: tried, path });
  return (
    <Box
      component="section"
      aria-label="What comes of it"
      aria-busy={isFetching}
      sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2 }}
    >
      {error && (
        <Typography role="alert" color="error">
          {failureText(error)}
        </Typography>
      )}
      {!data && !error && <Loading what="the trial" />}
      {data && !error && <Outcome trial={data} path={path} onPath={onPath} />}
    </Box>
  );
}

const figures = (values: readonly number[]): string =>
  values.map((value) => Number(value.toFixed(3))).join(', ');

function Outcome({
  trial,
  path,
  onPath,
}: {
  trial: Trial;
  path: string;
  onPath: (path: string) => void;
}): ReactNode {
  const { rows, placements, first, models, faults, error, sample, files, fileCount } = trial;
  const missing = models.filter((model) => model.path === null);
  return (
    <Box sx={{ display: 'grid', gap: 1.5 }}>
      {files.length > 0 && (
        <TextField
          select
          label={`Tried on one of ${plural(fileCount, 'file')}`}
          variant="standard"
          value={files.includes(path) ? path : (files[0] ?? '')}
          onChange={({ target }) => onPath(target.value)}
          slotProps={{ htmlInput: { className: 'path' } }}
        >
          {files.map((file) => (
            <MenuItem key={file} value={file} className="path">
              {file}
            </MenuItem>
          ))}
        </TextField>
      )}
      {error !== null ? (
        <Typography role="alert" color="error">{`It cannot be read so: ${error}`}</Typography>
      ) : (
        <Typography role="status">
          {`${plural(placements, 'placement')} of ${plural(rows, 'row')}; ${plural(models.length, 'model')}${missing.length > 0 ? `, of which this build lacks ${missing.length}` : ''}.`}
        </Typography>
      )}
      {faults.map((fault) => (
        <Typography key={fault} variant="body2" color="error">
          {fault}
        </Typography>
      ))}
      {first.length > 0 && (
        <Box sx={{ overflowX: 'auto' }} tabIndex={0} role="group" aria-label="The first placements">
          <Box
            component="table"
            sx={{
              borderCollapse: 'collapse',
              fontSize: '0.85rem',
              '& td, & th': {
                borderBottom: 1,
                borderColor: 'divider',
                textAlign: 'left',
                pr: 1.5,
                py: 0.25,
                whiteSpace: 'nowrap',
                fontWeight: 400,
              },
            }}
          >
            <Box component="thead" sx={{ color: 'text.secondary' }}>
              <tr>
                <th>Identity</th>
                <th>Model</th>
                <th>Class</th>
                <th>Position, metres, Y up</th>
                <th>Rotation, xyzw</th>
                <th>Scale</th>
                <th>Name</th>
              </tr>
            </Box>
            <tbody>
              {first.map((placement, at) => (
                <tr key={at}>
                  <td>{placement.id}</td>
                  <td className="path">{placement.model}</td>
                  <td>{placement.class}</td>
                  <td>{figures(placement.position)}</td>
                  <td>{figures(placement.rotation)}</td>
                  <td>{figures(placement.scale)}</td>
                  <td>{[placement.name, placement.locator].filter((said) => said !== '').join(', ')}</td>
                </tr>
              ))}
            </tbody>
          </Box>
        </Box>
      )}
      {models.length > 0 && (
        <Box component="details">
          <summary>{`What the models are (${models.length})`}</summary>
          {models.map(({ model, path: found }) => (
            <Typography
              key={model}
              variant="body2"
              className="path"
              sx={{ overflowWrap: 'anywhere' }}
              color={found === null ? 'error' : undefined}
            >{`${model} → ${found ?? 'not in this build'}`}</Typography>
          ))}
        </Box>
      )}
      {sample !== '' && (
        <Box>
          <Typography variant="h3">The file begins so</Typography>
          <Box
            component="pre"
            className="path"
            tabIndex={0}
            aria-label="The beginning of the file"
            sx={{
              m: 0,
              p: 1,
              bgcolor: 'plate',
              overflow: 'auto',
              maxHeight: 260,
              fontSize: '0.75rem !important',
            }}
          >
            {sample}
          </Box>
        </Box>
      )}
    </Box>
  );
}
