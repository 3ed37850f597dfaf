import { Box, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { useLexiconQuery } from './api.ts';
import { FreshParts } from './fresh-parts.tsx';
import { LexiconTable } from './lexicon-table.tsx';
import { Proposals } from './proposals.tsx';
import { SplitForm } from './split-form.tsx';

const sections = [
  ['', 'Lexicon'],
  ['proposals', 'Proposals'],
  ['fresh', 'Never seen before'],
  ['split', 'Splitting'],
] as const;

/** What the parts of names mean: what people say, what the data propose, and what is new. */
export function NamesView(): ReactNode {
  const { title, channel } = usePlace();
  const span = useSpan();
  const [parameters, set] = useAddress();
  const section = parameters.get('section') ?? '';
  const { data, error, refetch } = useLexiconQuery(title.id);
  const build = span.to?.label ?? '';
  if (build === '') return <Empty title="No build yet">Names are read from builds.</Empty>;
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!data) return <Loading what="the lexicon" />;
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
          Names
        </Typography>
        {sections.map(([name, label]) => (
          <Toggle
            key={name}
            isOn={section === name}
            onClick={() => set({ section: name }, { replace: false })}
          >
            {label}
          </Toggle>
        ))}
        <Typography variant="body2" color="text.secondary" sx={{ ml: 'auto' }}>
          {section === 'fresh' || section === 'proposals' ? `read from build ${build}` : `of ${title.name}`}
        </Typography>
      </Box>
      {section === 'proposals' && <Proposals titleId={title.id} where={where} />}
      {section === 'fresh' && <FreshParts titleId={title.id} where={where} />}
      {section === 'split' && <SplitForm titleId={title.id} state={data} />}
      {section === '' && <LexiconTable titleId={title.id} state={data} build={build} />}
    </Box>
  );
}
