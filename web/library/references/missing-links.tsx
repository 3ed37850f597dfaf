import { Box, Button, Checkbox, Link as MuiLink, MenuItem, TextField, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { MissingLink } from '../../../contract/references.ts';
import { plural } from '../../../core/figures.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { useAcceptLinksMutation, useMissingLinksQuery } from './api.ts';

const pageSize = 100;

const keyOf = ({ from, text }: MissingLink): string => `${from}\n${text}`;

/** A dry run: what would be linked to what, and why. What is accepted holds for later builds too. */
export function MissingLinks({ where }: { where: { channel: number; build: string } }): ReactNode {
  const [text, setText] = useState('');
  const [offset, setOffset] = useState(0);
  const [targets, setTargets] = useState<ReadonlyMap<string, string>>(new Map());
  const [unticked, setUnticked] = useState<ReadonlySet<string>>(new Set());
  const { enqueueSnackbar } = useSnackbar();
  const [accept, { isLoading: isSending }] = useAcceptLinksMutation();
  const { data, error, isLoading, isFetching, refetch } = useMissingLinksQuery({
    ...where,
    text,
    offset,
    limit: pageSize,
  });
  if (isLoading) return <Loading what="what is named and not there" />;
  if (error || !data) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  const targetOf = (link: MissingLink): string => {
    const [best] = link.candidates;
    return targets.get(keyOf(link)) ?? (best?.isCertain ? best.path : '');
  };
  const planned = data.links.filter((link) => targetOf(link) !== '' && !unticked.has(keyOf(link)));
  const send = async (): Promise<void> => {
    const links = planned.map((link) => ({ from: link.from, text: link.text, target: targetOf(link) }));
    const answer = await accept({ channel: where.channel, links });
    if (answer.error) enqueueSnackbar(failureText(answer.error), { variant: 'error' });
    else enqueueSnackbar(`${plural(links.length, 'link')} accepted; later builds keep them.`);
  };
  return (
    <>
      <Box
        sx={{
          px: 2,
          py: 0.5,
          display: 'flex',
          gap: 1.5,
          alignItems: 'center',
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        <TextFilter
          value={text}
          onChange={(value) => {
            setText(value);
            setOffset(0);
          }}
          label="What is missing, or who names it"
        />
        <Typography role="status" variant="body2" color="text.secondary" sx={{ flex: 1 }}>
          {`${plural(data.total, 'missing link')}${data.total > pageSize ? `, ${offset + 1} to ${offset + data.links.length} are shown` : ''}`}
        </Typography>
        {data.total > pageSize && (
          <>
            <Button disabled={offset === 0 || isFetching} onClick={() => setOffset(offset - pageSize)}>
              Previous
            </Button>
            <Button
              disabled={offset + pageSize >= data.total || isFetching}
              onClick={() => setOffset(offset + pageSize)}
            >
              Next
            </Button>
          </>
        )}
        <Button variant="outlined" disabled={planned.length === 0 || isSending} onClick={() => void send()}>
          {planned.length === 0 ? 'Nothing to link' : `Link ${plural(planned.length, 'thing')}`}
        </Button>
      </Box>
      {data.total === 0 ? (
        <Empty title="Nothing is missing">All that files of this build name is there.</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, overflow: 'auto' }}>
          {data.links.map((link) => (
            <MissingRow
              key={keyOf(link)}
              link={link}
              target={targetOf(link)}
              isTicked={!unticked.has(keyOf(link)) && targetOf(link) !== ''}
              onTick={() =>
                setUnticked((before) => {
                  const next = new Set(before);
                  if (!next.delete(keyOf(link))) next.add(keyOf(link));
                  return next;
                })
              }
              onTarget={(target) => setTargets((before) => new Map(before).set(keyOf(link), target))}
            />
          ))}
        </Box>
      )}
    </>
  );
}

interface RowProps {
  link: MissingLink;
  target: string;
  isTicked: boolean;
  onTick: () => void;
  onTarget: (target: string) => void;
}

function MissingRow({ link, target, isTicked, onTick, onTarget }: RowProps): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { from, text, where, candidates, was } = link;
  const chosen = candidates.find(({ path }) => path === target);
  return (
    <Box
      component="section"
      aria-label={text}
      sx={{
        px: 2,
        py: 0.75,
        display: 'grid',
        gridTemplateColumns: '34px minmax(0, 1fr) minmax(0, 1fr)',
        gap: 1,
        alignItems: 'center',
        borderBottom: 1,
        borderColor: 'divider',
      }}
    >
      <Checkbox
        size="small"
        checked={isTicked}
        disabled={target === ''}
        slotProps={{ input: { 'aria-label': `Link ${text}` } }}
        onChange={onTick}
        sx={{ p: 0 }}
      />
      <Box sx={{ minWidth: 0 }}>
        <strong>
          <PathText path={text} />
        </strong>
        <Typography
          variant="caption"
          component="div"
          color="text.secondary"
          sx={{ display: 'flex', gap: 0.5 }}
        >
          <span>{`${where} of`}</span>
          <MuiLink component={Link} to={assetPath(place, span, from)} color="inherit" sx={{ minWidth: 0 }}>
            <PathText path={from} />
          </MuiLink>
        </Typography>
        {was && (
          <Typography variant="caption" component="div">
            {`It lay at ${was.path} up to build ${was.build}.`}
          </Typography>
        )}
      </Box>
      {candidates.length === 0 ? (
        <Typography variant="body2" color="text.secondary">
          Nothing in this build is like it.
        </Typography>
      ) : (
        <Box sx={{ minWidth: 0 }}>
          <TextField
            select
            variant="standard"
            fullWidth
            value={target}
            onChange={(event) => onTarget(event.target.value)}
            slotProps={{ htmlInput: { 'aria-label': `What ${text} may be` }, select: { displayEmpty: true } }}
          >
            <MenuItem value="">Leave missing</MenuItem>
            {candidates.map((candidate) => (
              <MenuItem key={candidate.path} value={candidate.path}>
                <span className="path">{candidate.path}</span>
                <Typography
                  variant="caption"
                  color="text.secondary"
                  sx={{ pl: 1 }}
                >{`${Math.round(candidate.score * 100)} of 100: ${candidate.reason}`}</Typography>
              </MenuItem>
            ))}
          </TextField>
          {chosen === undefined && (
            <Typography
              variant="caption"
              color="text.secondary"
            >{`${plural(candidates.length, 'candidate')}; the best: ${candidates[0]?.reason ?? ''}`}</Typography>
          )}
        </Box>
      )}
    </Box>
  );
}
