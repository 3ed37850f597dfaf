import { InputBase } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';

/** Typing is not a question yet: the address changes when it pauses. */
export function TextFilter({
  value,
  onChange,
  label = 'Words in the path',
  name = label,
}: {
  value: string;
  onChange: (text: string) => void;
  label?: string;
  /** What it is called where the label is an example. */
  name?: string;
}): ReactNode {
  const [typed, setTyped] = useState(value);
  useEffect(() => {
    if (typed === value) return;
    const timer = setTimeout(() => onChange(typed), 250);
    return () => clearTimeout(timer);
  });
  return (
    <InputBase
      value={typed}
      onChange={({ target }) => setTyped(target.value)}
      placeholder={label}
      inputProps={{ 'aria-label': name, type: 'search' }}
      sx={{ border: 1, borderColor: 'divider', px: 1, width: 300, bgcolor: 'background.paper' }}
    />
  );
}
