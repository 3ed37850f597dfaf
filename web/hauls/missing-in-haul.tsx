import { Box, Button, Checkbox, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import type { HaulPlan } from '../../contract/hauls.ts';
import { plural } from '../../core/figures.ts';
import { useAcceptLinksMutation } from '../library/references/api.ts';
import { failureText } from '../ui/api.ts';
import { PathText } from '../ui/path-text.tsx';
import { usePlace } from '../ui/use-span.ts';

type Missing = HaulPlan['missing'][number];

const keyOf = ({ from, text }: Missing): string => `${from}\n${text}`;

/**
 * What files of the haul name and the build lacks: what it may be, by which rule and how sure, and all of it linked at once. A link
 * holds for later builds, too.
 */
export function MissingInHaul({ missing }: { missing: readonly Missing[] }): ReactNode {
  const { channel } = usePlace();
  const { enqueueSnackbar } = useSnackbar();
  const [accept, { isLoading }] = useAcceptLinksMutation();
  const [targets, setTargets] = useState<ReadonlyMap<string, string>>(new Map());
  if (missing.length === 0) return null;
  const targetOf = (one: Missing): string => {
    const [best] = one.candidates;
    return targets.get(keyOf(one)) ?? (best?.isCertain ? best.path : '');
  };
  const planned = missing.filter((one) => targetOf(one) !== '');
  const unsure = missing.filter((one) => targetOf(one) === '' && one.candidates.length > 0);
  const choose = (chosen: readonly (readonly [Missing, string])[]): void =>
    setTargets(
      (before) => new Map([...before, ...chosen.map(([one, target]) => [keyOf(one), target] as const)]),
    );
  const send = async (): Promise<void> => {
    const links = planned.map((one) => ({ from: one.from, text: one.text, target: targetOf(one) }));
    const answer = await accept({ channel: channel.id, links });
    if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
    else enqueueSnackbar(`${plural(links.length, 'link')} accepted; later builds keep them.`);
  };
  return (
    <Box component="details" sx={{ mt: 0.5 }}>
      <Box component="summary" sx={{ cursor: 'pointer', color: 'primary.main' }}>
        {`${plural(missing.length, 'file')} named and not in the build`}
      </Box>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', py: 0.5, flexWrap: 'wrap' }}>
        <Button
          size="small"
          variant="outlined"
          disabled={planned.length === 0 || isLoading}
          onClick={() => void send()}
        >
          {planned.length === 0 ? 'Nothing to link' : `Link ${plural(planned.length, 'thing')}`}
        </Button>
        {unsure.length > 0 && (
          <Button
            size="small"
            onClick={() => choose(unsure.map((one) => [one, one.candidates[0]?.path ?? '']))}
          >
            {`Tick the best of ${plural(unsure.length, 'other')}`}
          </Button>
        )}
      </Box>
      <Box component="ul" sx={{ m: 0, p: 0, listStyle: 'none', maxHeight: 320, overflow: 'auto' }}>
        {missing.map((one) => (
          <MissingLine
            key={keyOf(one)}
            one={one}
            target={targetOf(one)}
            onTarget={(target) => choose([[one, target]])}
          />
        ))}
      </Box>
    </Box>
  );
}

function MissingLine({
  one: { from, text, candidates },
  target,
  onTarget,
}: {
  one: Missing;
  target: string;
  onTarget: (target: string) => void;
}): ReactNode {
  const [best] = candidates;
  return (
    <Box
      component="li"
      sx={{
        ...{ display: 'grid', gridTemplateColumns: { xs: '34px 1fr', md: '34px 1fr 1fr' }, gap: 1 },
        ...{ alignItems: 'center', py: 0.25, borderTop: 1, borderColor: 'divider' },
      }}
    >
      <Checkbox
        size="small"
        checked={target !== ''}
        disabled={!best}
        slotProps={{ input: { 'aria-label': `Link ${text}` } }}
        onChange={({ target: { checked } }) => onTarget(checked ? (best?.path ?? '') : '')}
        sx={{ p: 0 }}
      />
      <Box sx={{ minWidth: 0 }}>
        <PathText path={text} />
        <Typography variant="caption" component="div" color="text.secondary" noWrap title={from}>
          {`named by ${from}`}
        </Typography>
      </Box>
      {best ? (
        <TextField
          select
          variant="standard"
          value={target}
          onChange={(event) => onTarget(event.target.value)}
          slotProps={{ htmlInput: { 'aria-label': `What ${text} may be` }, select: { displayEmpty: true } }}
        >
          <MenuItem value="">Leave missing</MenuItem>
          {candidates.map(({ path, score, reason }) => (
            <MenuItem key={path} value={path}>
              <span className="path">{path}</span>
              <Typography variant="caption" color="text.secondary" sx={{ pl: 1 }}>
                {`${Math.round(score * 100)} of 100: ${reason}`}
              </Typography>
            </MenuItem>
          ))}
        </TextField>
      ) : (
        <Typography variant="body2" color="text.secondary">
          Nothing in this build is like it.
        </Typography>
      )}
    </Box>
  );
}
