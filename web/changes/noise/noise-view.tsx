import { paneRow } from '../../ui/side-pane.ts';
import { Box, Button, Switch, Typography } from '@mui/material';
import { useSnackbar } from 'notistack';
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { NoiseRule } from '../../../contract/noise.ts';
import { useFindingsQuery } from '../findings/api.ts';
import { findingsQuerySchema } from '../../../contract/findings.ts';
import { failureText } from '../../ui/api.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import { usePlace, useSpan, spanQuery, viewPath } from '../../ui/use-span.ts';
import { useNoiseRulesQuery, useSaveNoiseRulesMutation } from './api.ts';
import { RuleForm } from './rule-form.tsx';
import { testText } from './test-text.ts';

/** Rules that fold findings away, what each hides of the span, and a form for one's own. */
export function NoiseView(): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { enqueueSnackbar } = useSnackbar();
  const { data: state, error, refetch } = useNoiseRulesQuery(place.title.id);
  const [save] = useSaveNoiseRulesMutation();
  const [edited, setEdited] = useState<NoiseRule | 'new' | null>(null);
  const { data: page } = useFindingsQuery(
    findingsQuerySchema.parse({
      channel: place.channel.id,
      from: span.from?.label ?? '',
      to: span.to?.label ?? '',
      limit: 1,
    }),
    { skip: !span.from || !span.to },
  );
  if (error) return <Failure text={failureText(error)} onRetry={() => void refetch()} />;
  if (!state) return <Loading what="the rules" />;
  const { rules, revision } = state;
  const keep = async (next: NoiseRule[]): Promise<boolean> => {
    const outcome = await save({ title: place.title.id, rules: next, revision });
    if (outcome.error) {
      enqueueSnackbar(failureText(outcome.error), { variant: 'error' });
      void refetch();
    }
    return !outcome.error;
  };
  const foldOf = (key: string) => page?.folds.find((fold) => fold.key === key);
  return (
    <Box sx={paneRow}>
      <Box
        tabIndex={0}
        role="region"
        aria-label="Rules"
        sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2 }}
      >
        <Typography variant="h1">What is noise</Typography>
        <Typography sx={{ mb: 1.5, maxWidth: 720 }}>
          {span.from && span.to
            ? `Findings that fit a rule are folded away: they are counted, and one choice shows them again. Counts are of ${span.from.label} to ${span.to.label}; of rules that fit the same finding the first hides it.`
            : 'Findings that fit a rule are folded away. Pick a span above to see what each rule hides of it.'}
        </Typography>
        <Box
          component="table"
          sx={{
            width: '100%',
            borderCollapse: 'collapse',
            '& th, & td': {
              textAlign: 'left',
              borderBottom: 1,
              borderColor: 'divider',
              py: 0.5,
              pr: 1.5,
              verticalAlign: 'top',
            },
          }}
        >
          <thead>
            <tr>
              <th scope="col">On</th>
              <th scope="col">Rule</th>
              <th scope="col">Fits</th>
              <th scope="col">Hides</th>
              <td />
            </tr>
          </thead>
          <tbody>
            {rules.map((rule) => (
              <tr key={rule.key}>
                <td>
                  <Switch
                    size="small"
                    checked={rule.isOn}
                    slotProps={{ input: { 'aria-label': rule.name } }}
                    onChange={(_, isOn) =>
                      void keep(rules.map((other) => (other.key === rule.key ? { ...rule, isOn } : other)))
                    }
                  />
                </td>
                <td>
                  {rule.name}
                  <Typography variant="body2" color="text.secondary">
                    {testText(rule.test)}
                  </Typography>
                </td>
                <td>{foldOf(rule.key)?.fits.toLocaleString('en') ?? ''}</td>
                <td>
                  {(foldOf(rule.key)?.hides ?? 0) > 0 ? (
                    <Link to={`${viewPath(place, 'findings')}?${spanQuery(span)}&noise=${rule.key}`}>
                      {foldOf(rule.key)?.hides.toLocaleString('en')}
                    </Link>
                  ) : (
                    (foldOf(rule.key)?.hides ?? '')
                  )}
                </td>
                <td>
                  {!rule.isBuiltIn && (
                    <>
                      <Button onClick={() => setEdited(rule)}>Edit</Button>
                      <Button onClick={() => void keep(rules.filter((other) => other !== rule))}>
                        Remove
                      </Button>
                    </>
                  )}
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
        <Button variant="outlined" sx={{ mt: 1.5 }} onClick={() => setEdited('new')}>
          New rule
        </Button>
      </Box>
      {edited !== null && (
        <RuleForm
          key={edited === 'new' ? '' : edited.key}
          rule={edited === 'new' ? null : edited}
          onCancel={() => setEdited(null)}
          onKeep={async (rule) => {
            const others = rules.filter(({ key }) => key !== rule.key);
            if (await keep([...others, rule])) setEdited(null);
          }}
        />
      )}
    </Box>
  );
}
