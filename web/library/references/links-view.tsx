import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { Empty } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { MissingLinks } from './missing-links.tsx';
import { Unnamed } from './unnamed.tsx';

/** What is named and not there, and what is there and not named. */
export function LinksView(): ReactNode {
  const { channel } = usePlace();
  const span = useSpan();
  const [parameters, set] = useAddress();
  const section = parameters.get('section') ?? '';
  const build = span.to?.label ?? '';
  if (build === '') return <Empty title="No build yet">Links are read from builds.</Empty>;
  const where = { channel: channel.id, build };
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
          alignItems: 'baseline',
        }}
      >
        <Typography variant="h1" sx={{ mr: 2 }}>
          Links
        </Typography>
        <Toggle isOn={section === ''} onClick={() => set({ section: '' }, { replace: false })}>
          Missing
        </Toggle>
        <Toggle isOn={section === 'unnamed'} onClick={() => set({ section: 'unnamed' }, { replace: false })}>
          Named by nothing
        </Toggle>
        <Typography
          variant="body2"
          color="text.secondary"
          sx={{ ml: 'auto' }}
        >{`in build ${build}`}</Typography>
      </Box>
      {section === 'unnamed' ? <Unnamed where={where} /> : <MissingLinks key={build} where={where} />}
    </Box>
  );
}
