import { Button } from '@mui/material';
import type { ReactNode } from 'react';

/** A label that is switched on and off. */
export function Toggle({
  isOn,
  onClick,
  children,
}: {
  isOn: boolean;
  onClick: () => void;
  children: ReactNode;
}): ReactNode {
  return (
    <Button
      aria-pressed={isOn}
      onClick={onClick}
      sx={{
        minWidth: 0,
        px: 0.9,
        py: 0.1,
        fontWeight: isOn ? 700 : 400,
        color: 'text.primary',
        borderRadius: 0,
        borderBottom: 2,
        borderColor: isOn ? 'primary.main' : 'transparent',
        bgcolor: isOn ? 'plate' : 'transparent',
      }}
    >
      {children}
    </Button>
  );
}
