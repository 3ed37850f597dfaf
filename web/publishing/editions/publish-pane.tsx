import { Box, Button, Link as MuiLink, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { momentText } from '../../ui/dates.ts';
import { useAppSelector } from '../../ui/store.ts';
import { usePlace, viewPath } from '../../ui/use-span.ts';
import {
  useEditionProblemsQuery,
  useEditionsQuery,
  usePublishMutation,
  useSaveRightsMutation,
} from '../api.ts';

const shownProblems = 30;

/** What would be published, what is wrong with it, and the editions that were. */
export function PublishPane(): ReactNode {
  const { title } = usePlace();
  const [publish, { data: started, error, isLoading }] = usePublishMutation();
  const job = useAppSelector(({ work }) => work.jobs.find(({ id }) => id === started?.job));
  const isAtWork = job?.state === 'waiting' || job?.state === 'running';
  return (
    <Box sx={{ display: 'grid', gap: 1.5, alignContent: 'start' }}>
      <Rights />
      <Problems />
      <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 1 }}>
        <Button
          variant="contained"
          disabled={isLoading || isAtWork}
          onClick={() => void publish({ title: title.id })}
        >
          Publish an edition
        </Button>
        <Button
          variant="outlined"
          disabled={isLoading || isAtWork}
          onClick={() => void publish({ title: title.id, isPreview: true })}
        >
          Make a preview
        </Button>
      </Box>
      {error && <Typography role="alert">{failureText(error)}</Typography>}
      {job && (
        <Typography role="status" sx={{ overflowWrap: 'anywhere' }}>
          {job.state === 'done'
            ? job.report?.summary
            : job.state === 'failed' || job.state === 'stopped'
              ? `It was not published: ${job.error ?? 'the work was stopped'}`
              : `Publishing: ${plural(job.progress?.files ?? 0, 'entry').replace('entrys', 'entries')}`}
        </Typography>
      )}
      <MuiLink href={`/api/titles/${title.id}/preview/index.html`} target="_blank" rel="noopener">
        Look at the preview
      </MuiLink>
      <Editions isAtWork={isAtWork} onBack={(backTo) => void publish({ title: title.id, backTo })} />
    </Box>
  );
}

function Rights(): ReactNode {
  const { title } = usePlace();
  const [rights, setRights] = useState(title.rights);
  const [saveRights, saving] = useSaveRightsMutation();
  return (
    <>
      <TextField
        label="Statement on rights, on every page"
        multiline
        minRows={2}
        size="small"
        value={rights}
        onChange={({ target }) => setRights(target.value)}
      />
      {rights !== title.rights && (
        <Button
          variant="outlined"
          disabled={saving.isLoading}
          onClick={() => void saveRights({ title: title.id, rights })}
        >
          Save the statement
        </Button>
      )}
    </>
  );
}

/** What is listed before publishing, each with a way to mend it. */
function Problems(): ReactNode {
  const place = usePlace();
  const { data: problems, error } = useEditionProblemsQuery(place.title.id);
  if (error) return <Typography role="alert">{failureText(error)}</Typography>;
  if (!problems) return null;
  if (problems.length === 0)
    return <Typography color="text.secondary">Nothing stands in the way of an edition.</Typography>;
  return (
    <Box>
      <Typography variant="h3">
        {problems.length === 1 ? 'One thing to look at first' : `${problems.length} things to look at first`}
      </Typography>
      <Box
        component="ul"
        aria-label="Before publishing"
        sx={{ pl: 2.5, m: 0, maxHeight: 220, overflow: 'auto' }}
        tabIndex={0}
      >
        {problems.slice(0, shownProblems).map(({ entry, name, text, mend, isSerious }, at) => (
          <Box component="li" key={at} sx={{ overflowWrap: 'anywhere', mb: 0.5 }}>
            <MuiLink component={Link} to={viewPath(place, `catalogue/${entry}`)}>
              {name}
            </MuiLink>
            {`: ${isSerious ? '! ' : ''}${text} ${mend}`}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

function Editions({ isAtWork, onBack }: { isAtWork: boolean; onBack: (number: number) => void }): ReactNode {
  const { title } = usePlace();
  const { data: editions } = useEditionsQuery(title.id);
  if (!editions || editions.length === 0) return null;
  return (
    <Box>
      <Typography variant="h3">Editions</Typography>
      <Box component="ol" aria-label="Editions" sx={{ listStyle: 'none', p: 0, m: 0 }}>
        {editions.map(({ number, publishedAt, by, entries, backTo, changes, folder }, at) => (
          <Box component="li" key={number} sx={{ borderTop: 1, borderColor: 'divider', py: 0.5 }}>
            <Typography sx={{ overflowWrap: 'anywhere' }}>
              {`Edition ${number}, ${momentText(publishedAt)}${by ? `, by ${by}` : ''}: ${entries === 1 ? '1 entry' : `${entries.toLocaleString('en')} entries`}`}
              {changes &&
                at < editions.length - 1 &&
                ` (${changes.added} new, ${changes.changed} changed, ${changes.removed} gone)`}
              {backTo !== null && `, back to edition ${backTo}`}
            </Typography>
            <Typography className="path" sx={{ overflowWrap: 'anywhere' }}>
              {folder}
            </Typography>
            {at > 0 && (
              <Button size="small" disabled={isAtWork} onClick={() => onBack(number)}>
                {`Go back to edition ${number}`}
              </Button>
            )}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
