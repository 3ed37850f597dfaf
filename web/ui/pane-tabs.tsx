import { Box, Button } from '@mui/material';
import type { KeyboardEvent, ReactNode } from 'react';

/** Which of several panes is shown: arrows go from one to the next. */
export function PaneTabs<Name extends string>({
  label,
  panes,
  shown,
  onShow,
}: {
  label: string;
  panes: Readonly<Partial<Record<Name, string>>>;
  shown: Name;
  onShow: (name: Name) => void;
}): ReactNode {
  const names = Object.keys(panes) as Name[];
  const onKeyDown = (event: KeyboardEvent<HTMLElement>): void => {
    const step = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (step === undefined) return;
    const at = (names.indexOf(shown) + step + names.length) % names.length;
    event.preventDefault();
    onShow(names[at] ?? shown);
    (event.currentTarget.children[at] as HTMLElement).focus();
  };
  return (
    <Box
      role="tablist"
      aria-label={label}
      onKeyDown={onKeyDown}
      sx={{ display: 'flex', flexWrap: 'wrap', borderBottom: 1, borderColor: 'divider' }}
    >
      {names.map((name) => (
        <Button
          key={name}
          role="tab"
          aria-selected={name === shown}
          tabIndex={name === shown ? 0 : -1}
          onClick={() => onShow(name)}
          sx={{
            ...{ borderRadius: 0, borderBottom: 2, minHeight: 34, minWidth: 0, px: 1.75 },
            borderColor: name === shown ? 'primary.main' : 'transparent',
            color: name === shown ? 'primary.main' : 'text.secondary',
          }}
        >
          {panes[name]}
        </Button>
      ))}
    </Box>
  );
}
