import { Box, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';

/** Three numbers along the axes, as people type them. */
export function Triple({
  label,
  value,
  onChange,
}: {
  label: string;
  value: readonly [number, number, number];
  onChange: (value: [number, number, number]) => void;
}): ReactNode {
  return (
    <NumberRow
      label={label}
      names={['x', 'y', 'z']}
      values={value}
      onChange={([x = 0, y = 0, z = 0]) => onChange([x, y, z])}
    />
  );
}

/** Numbers that belong together, on one line. */
export function NumberRow({
  label,
  what = label,
  names,
  values,
  isPositive = false,
  onChange,
}: {
  label: string;
  /** What they are of, for those who hear it; the label where nothing is said. */
  what?: string;
  names: readonly string[];
  values: readonly number[];
  isPositive?: boolean;
  onChange: (values: number[]) => void;
}): ReactNode {
  return (
    <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 0.75 }}>
      <Typography variant="body2" color="text.secondary" sx={{ width: 74, flexShrink: 0 }}>
        {label}
      </Typography>
      {names.map((name, at) => (
        <NumberField
          key={name}
          label={`${what}, ${name}`}
          value={values[at] ?? 0}
          isPositive={isPositive}
          onChange={(number) => onChange(values.map((old, place) => (place === at ? number : old)))}
        />
      ))}
    </Box>
  );
}

/** A number that counts once it is one: what is half typed changes nothing. */
export function NumberField({
  label,
  value,
  onChange,
  isPositive = false,
}: {
  label: string;
  value: number;
  onChange: (value: number) => void;
  isPositive?: boolean;
}): ReactNode {
  const [typed, setTyped] = useState<string | null>(null);
  const isWrong = typed !== null && !isNumber(typed, isPositive);
  return (
    <TextField
      variant="standard"
      size="small"
      value={typed ?? String(value)}
      error={isWrong}
      onChange={({ target }) => {
        setTyped(target.value);
        if (isNumber(target.value, isPositive)) onChange(Number(target.value));
      }}
      onBlur={() => setTyped(null)}
      slotProps={{ htmlInput: { 'aria-label': label, inputMode: 'decimal' } }}
      sx={{ flex: 1, minWidth: 0 }}
    />
  );
}

function isNumber(text: string, isPositive: boolean): boolean {
  const number = Number(text);
  return (
    text.trim() !== '' &&
    Number.isFinite(number) &&
    Math.abs(number) <= 1e6 &&
    (!isPositive || number >= 1e-6)
  );
}
