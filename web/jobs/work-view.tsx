import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { useAppSelector } from '../ui/store.ts';
import { Empty, Loading } from '../ui/states.tsx';
import { JobCard } from './job-card.tsx';
import { WorkPage } from '../ui/work-page.tsx';

export function WorkView(): ReactNode {
  const { jobs, isLive, isKnown } = useAppSelector(({ work }) => work);
  return (
    <WorkPage title="Jobs">
      {isKnown && !isLive && (
        <Typography role="status" color="primary" sx={{ mb: 1 }}>
          The connection to the server is lost. It is tried again; what stands here is what was known last.
        </Typography>
      )}
      {!isKnown && <Loading what="the jobs" />}
      {isKnown && jobs.length === 0 && (
        <Empty title="No work yet">Bring in a build, and its progress stands here.</Empty>
      )}
      <Box sx={{ display: 'grid', gap: 1.5, maxWidth: 900 }}>
        {jobs.map((job) => (
          <JobCard key={job.id} job={job} />
        ))}
      </Box>
    </WorkPage>
  );
}
