import { InputBase } from '@mui/material';
import { useEffect, useRef, useState, type ReactNode } from 'react';

const typingPauseMs = 250;

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
  /** What the address was last asked to say: anything else in it comes from somewhere else, and is taken over. */
  const sent = useRef(value);
  useEffect(() => {
    if (value === sent.current) return;
    sent.current = value;
    setTyped(value);
  }, [value]);
  useEffect(() => {
    if (typed === sent.current) return;
    const timer = setTimeout(() => {
      sent.current = typed;
      onChange(typed);
    }, typingPauseMs);
    return () => clearTimeout(timer);
  });
  return (
    <InputBase
      value={typed}
      onChange={({ target }) => setTyped(target.value)}
      placeholder={label}
      inputProps={{ 'aria-label': name, type: 'search' }}
      sx={{
        border: 1,
        borderColor: 'divider',
        px: 1,
        width: 200,
        maxWidth: '100%',
        height: 28,
        bgcolor: 'background.paper',
      }}
    />
  );
}
