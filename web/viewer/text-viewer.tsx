import { Box, Typography } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useMemo, useRef, type ReactNode } from 'react';
import { useShownTextQuery, useTextQuery } from './assets-api.ts';
import { failureText } from '../ui/api.ts';
import { Failure, Loading } from '../ui/states.tsx';

export function TextViewer({ hash }: { hash: string }): ReactNode {
  const { data, error } = useTextQuery(hash);
  if (error) return <Failure text={failureText(error)} />;
  return data ? <Lines data={data} /> : <Loading what="the text" />;
}

/** A table that a sheet reads. */
export function TableViewer(where: { channel: number; build: string; path: string }): ReactNode {
  const { data, error } = useShownTextQuery(where);
  if (error) return <Failure text={failureText(error)} />;
  return data ? <Lines data={data} /> : <Loading what="the table" />;
}

function Lines({ data }: { data: { text: string; truncated: boolean } }): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const lines = useMemo(() => data.text.replace(/\r?\n$/, '').split(/\r\n|\r|\n/), [data]);
  const virtual = useVirtualizer({
    count: lines.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => 20,
    overscan: 20,
  });
  return (
    <Box
      ref={scroller}
      tabIndex={0}
      role="region"
      aria-label="Text"
      sx={{ flex: 1, overflow: 'auto', bgcolor: 'background.paper' }}
    >
      <Box sx={{ height: virtual.getTotalSize(), position: 'relative', minWidth: 'max-content' }}>
        {virtual.getVirtualItems().map(({ index, start, key }) => (
          <Box
            key={key}
            className="path"
            style={{ transform: `translateY(${start}px)` }}
            sx={{ position: 'absolute', top: 0, height: 20, whiteSpace: 'pre', display: 'flex' }}
          >
            <Box
              component="span"
              aria-hidden
              sx={{ width: 52, textAlign: 'right', pr: 1.5, color: 'text.secondary', userSelect: 'none' }}
            >
              {index + 1}
            </Box>
            {lines[index]}
          </Box>
        ))}
      </Box>
      {data.truncated && (
        <Typography sx={{ p: 2 }} color="text.secondary">
          Only the first mebibyte is shown.
        </Typography>
      )}
    </Box>
  );
}
