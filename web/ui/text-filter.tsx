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
  /**
   * What the address says, and after it what it was asked to say since, oldest first. It follows late where the page
   * has much to draw; what is none of these comes from somewhere else, and is taken over.
   */
  const asked = useRef([value]);
  useEffect(() => {
    const at = asked.current.indexOf(value);
    if (at >= 0) {
      asked.current.splice(0, at);
      return;
    }
    asked.current = [value];
    setTyped(value);
  }, [value]);
  useEffect(() => {
    if (typed === asked.current.at(-1)) return;
    const timer = setTimeout(() => {
      asked.current.push(typed);
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
