import { Box, Button, CircularProgress, Typography } from '@mui/material';
import type { ReactNode } from 'react';

/** While an answer is on its way. Says so in words as well, for those who do not see the wheel. */
export function Loading({ what }: { what: string }): ReactNode {
  return (
    <Box
      role="status"
      sx={{ display: 'flex', gap: 1.5, alignItems: 'center', p: 4, justifyContent: 'center' }}
    >
      <CircularProgress size={18} aria-hidden />
      <Typography color="text.secondary">{`Loading ${what}…`}</Typography>
    </Box>
  );
}

export function Failure({ text, onRetry }: { text: string; onRetry?: () => void }): ReactNode {
  return (
    <Box role="alert" sx={{ p: 3, m: 2, border: 1, borderColor: 'primary.main', maxWidth: 720 }}>
      <Typography variant="h2" gutterBottom>
        This did not work
      </Typography>
      <Typography sx={{ overflowWrap: 'anywhere' }}>{text}</Typography>
      {onRetry && (
        <Button sx={{ mt: 1.5 }} variant="outlined" onClick={onRetry}>
          Try again
        </Button>
      )}
    </Box>
  );
}

export function Empty({ title, children }: { title: string; children?: ReactNode }): ReactNode {
  return (
    <Box sx={{ p: 5, textAlign: 'center', maxWidth: 620, mx: 'auto' }}>
      <Typography variant="h2" gutterBottom>
        {title}
      </Typography>
      <Typography component="div" color="text.secondary">
        {children}
      </Typography>
    </Box>
  );
}
