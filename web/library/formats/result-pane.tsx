import { Box, Typography } from '@mui/material';
import { lazy, Suspense, type ReactNode } from 'react';
import type { Outcome } from '../../../core/formats/workshop.ts';
import { failureText } from '../../ui/api.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { unitOfFacts } from '../../viewer/length-unit.ts';
import { PictureViewer } from '../../viewer/picture/picture-viewer.tsx';
import { useLookBySheetQuery, useShownBySheetQuery, type LookedAt } from './api.ts';

const ModelViewer = lazy(() => import('../../viewer/model/model-viewer.tsx'));
const SoundPlayer = lazy(() => import('../../viewer/sound/sound-player.tsx'));

/** What comes out of the file, as it will look once the sheet is saved. */
export function ResultPane({ outcome, asked }: { outcome: Outcome; asked: LookedAt }): ReactNode {
  if (outcome.misfit || outcome.problems.length > 0)
    return <Empty title="Nothing yet">It is shown here when the sheet fits the file.</Empty>;
  if (outcome.kind === null)
    return <Empty title="Fields alone">A sheet says under “result” what comes out of them.</Empty>;
  if (outcome.rows) return <RowsTable rows={outcome.rows} />;
  return <Looked asked={asked} />;
}

function Looked({ asked }: { asked: LookedAt }): ReactNode {
  const { currentData: look, error } = useLookBySheetQuery(asked);
  const { currentData: source, error: shownError } = useShownBySheetQuery(asked);
  const failure = error ?? shownError;
  if (failure) return <Failure text={failureText(failure)} />;
  if (!look || source === undefined) return <Loading what="what comes out of it" />;
  const { facts, reason } = look;
  const name = nameOf(asked.path);
  if (!facts) return <Failure text={reason ?? 'Nothing came of it.'} />;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      {reason !== null && (
        <Typography role="alert" color="error" sx={{ px: 2, py: 1 }}>
          {`Not all of it: ${reason}.`}
        </Typography>
      )}
      <Box sx={{ flex: 1, minHeight: 260, display: 'flex', bgcolor: 'plate' }}>
        <Suspense fallback={<Loading what="the viewer" />}>
          {facts.kind === 'picture' && <PictureViewer source={source} facts={facts} name={name} />}
          {facts.kind === 'sound' && <SoundPlayer wave={source} {...{ source, facts, name }} />}
          {facts.kind === 'model' && (
            <ModelViewer
              key={source}
              source={source}
              unpacked={source}
              name={name}
              unit={unitOfFacts(facts)}
            />
          )}
        </Suspense>
      </Box>
    </Box>
  );
}

function RowsTable({ rows: { columns, rows, count } }: { rows: NonNullable<Outcome['rows']> }): ReactNode {
  return (
    <Box
      sx={{ p: 2, overflow: 'auto', flex: 1 }}
      tabIndex={0}
      role="region"
      aria-label="What comes out of it"
    >
      <Typography variant="body2" color="text.secondary">
        {count > rows.length
          ? `The first ${rows.length.toLocaleString('en')} of ${count.toLocaleString('en')}.`
          : `${count.toLocaleString('en')} in all.`}
      </Typography>
      <Box
        component="table"
        className="path"
        sx={{
          ...{ borderCollapse: 'collapse', fontSize: '0.78rem !important' },
          '& td, & th': { borderBottom: 1, borderColor: 'divider', textAlign: 'left', pr: 1.5, py: 0.25 },
        }}
      >
        <thead>
          <tr>
            {columns.map((name) => (
              <th key={name}>{name}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((cells, row) => (
            <tr key={row}>
              {cells.map((cell, column) => (
                <td key={column}>{cell}</td>
              ))}
            </tr>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}
