import { sidePane } from '../../ui/side-pane.ts';
import { Box, Button, Checkbox, FormControlLabel, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { natureSchema } from '../../../contract/comparisons.ts';
import { kindSchema, statusSchema } from '../../../contract/kinds.ts';
import { noiseTestSchema, type NoiseRule, type NoiseTest } from '../../../contract/noise.ts';
import { failureText } from '../../ui/api.ts';
import { PathText } from '../../ui/path-text.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace, useSpan } from '../../ui/use-span.ts';
import { useTryNoiseQuery } from './api.ts';

const emptyTest = {
  statuses: [],
  kinds: [],
  natures: [],
  paths: [],
  mostExtent: null,
  inMovedFolder: false,
  isHelper: false,
  isLevelCopy: false,
} satisfies NoiseTest;

/** Writes a rule, and shows meanwhile what it would hide of the span. */
export function RuleForm({
  rule,
  onKeep,
  onCancel,
}: {
  rule: NoiseRule | null;
  onKeep: (rule: NoiseRule) => Promise<void>;
  onCancel: () => void;
}): ReactNode {
  const [name, setName] = useState(rule?.name ?? '');
  const [test, setTest] = useState<NoiseTest>(rule?.test ?? emptyTest);
  const [paths, setPaths] = useState(test.paths.join('\n'));
  const [percent, setPercent] = useState(test.mostExtent === null ? '' : String(test.mostExtent * 100));
  const wanted = noiseTestSchema.safeParse({
    ...test,
    paths: paths
      .split('\n')
      .map((path) => path.trim())
      .filter(Boolean),
    mostExtent: percent.trim() === '' ? null : Number(percent) / 100,
  });
  const toggle = <Key extends 'statuses' | 'kinds' | 'natures'>(
    key: Key,
    value: NoiseTest[Key][number],
  ): void => {
    const values = test[key] as string[];
    setTest({
      ...test,
      [key]: values.includes(value) ? values.filter((other) => other !== value) : [...values, value],
    });
  };
  const group = <Key extends 'statuses' | 'kinds' | 'natures'>(
    key: Key,
    label: string,
    options: readonly NoiseTest[Key][number][],
  ): ReactNode => (
    <Box role="group" aria-label={label} sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.25 }}>
      <Typography variant="body2" sx={{ width: '100%' }}>
        {label}
      </Typography>
      {options.map((option) => (
        <Toggle
          key={option}
          isOn={(test[key] as string[]).includes(option)}
          onClick={() => toggle(key, option)}
        >
          {option}
        </Toggle>
      ))}
    </Box>
  );
  const flags: [keyof NoiseTest & ('inMovedFolder' | 'isHelper' | 'isLevelCopy'), string][] = [
    ['inMovedFolder', 'Part of a folder that moved as a whole'],
    ['isHelper', 'Named as a helper shape'],
    ['isLevelCopy', 'A lower level of detail of what is shown'],
  ];
  return (
    <Box
      component="form"
      aria-label="Noise rule"
      onSubmit={(event) => {
        event.preventDefault();
        if (wanted.success)
          void onKeep({
            key: rule?.key ?? `own-${Date.now().toString(36)}`,
            name: name.trim(),
            isOn: rule?.isOn ?? true,
            isBuiltIn: false,
            test: wanted.data,
          });
      }}
      sx={{
        ...sidePane(430),
        p: 2,
        display: 'grid',
        gap: 1.25,
        alignContent: 'start',
        bgcolor: 'background.paper',
      }}
    >
      <Typography variant="h2">{rule ? 'Edit rule' : 'New rule'}</Typography>
      <TextField
        label="Name"
        value={name}
        onChange={({ target }) => setName(target.value)}
        slotProps={{ htmlInput: { maxLength: 120 } }}
      />
      {group('statuses', 'Status: any of', statusSchema.options)}
      {group('kinds', 'Kind: any of', kindSchema.options)}
      {group('natures', 'Compared as: any of', natureSchema.options)}
      <TextField
        label="At most so many percent changed"
        value={percent}
        onChange={({ target }) => setPercent(target.value)}
        slotProps={{ htmlInput: { inputMode: 'decimal' } }}
      />
      <TextField
        label="Paths, a glob a line: **/cache/**, *.bak"
        multiline
        minRows={2}
        maxRows={5}
        value={paths}
        onChange={({ target }) => setPaths(target.value)}
      />
      {flags.map(([key, label]) => (
        <FormControlLabel
          key={key}
          label={label}
          control={
            <Checkbox
              size="small"
              checked={test[key]}
              onChange={(_, isOn) => setTest({ ...test, [key]: isOn })}
            />
          }
        />
      ))}
      <Trial
        test={wanted.success ? wanted.data : null}
        failure={wanted.success ? '' : (wanted.error.issues[0]?.message ?? '')}
      />
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button type="submit" variant="contained" disabled={!wanted.success || name.trim() === ''}>
          Save
        </Button>
        <Button onClick={onCancel}>Cancel</Button>
      </Box>
    </Box>
  );
}

/** What the rule as it stands would hide. */
function Trial({ test, failure }: { test: NoiseTest | null; failure: string }): ReactNode {
  const { channel } = usePlace();
  const { from, to } = useSpan();
  const { data, error, isFetching } = useTryNoiseQuery(
    { channel: channel.id, from: from?.label ?? '', to: to?.label ?? '', test: test ?? emptyTest },
    { skip: !test || !from || !to },
  );
  if (!test) return <Typography color="text.secondary">{failure}</Typography>;
  if (!from || !to) return <Typography color="text.secondary">Pick a span above to try it.</Typography>;
  if (error) return <Typography role="alert">{failureText(error)}</Typography>;
  if (!data) return <Typography>Trying it …</Typography>;
  return (
    <Box role="status" sx={{ opacity: isFetching ? 0.6 : 1 }}>
      <Typography>
        {`It fits ${data.fits.toLocaleString('en')} findings of this span; ${data.alone.toLocaleString('en')} of them no other rule hides.`}
      </Typography>
      {data.examples.map(({ path, status, evidence }) => (
        <Box key={path} sx={{ fontSize: '0.82rem' }}>
          <PathText path={path} />
          <span>{`${status}: ${evidence}`}</span>
        </Box>
      ))}
    </Box>
  );
}
