import { Box, Typography, useTheme } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { fieldPathText, type Run } from '../../../core/formats/field-tree.ts';
import { tintsOf } from './tints.ts';
import type { Thread } from './use-workshop.ts';

interface Props {
  thread: Thread;
  round: number;
  /** The line at which the file does not fit, from 1. */
  fault: number | null;
}

const linePixels = 20;

/** Lines of a text, with the rules of the sheet that took them. */
export function LinesView({ thread, round, fault }: Props): ReactNode {
  const { palette } = useTheme();
  const tints = tintsOf(palette.mode);
  const scroller = useRef<HTMLDivElement>(null);
  const [{ text, runs }, setSeen] = useState<{ text: string; runs: Run[] }>({ text: '', runs: [] });
  useEffect(() => {
    let isCurrent = true;
    void thread.lines().then(
      (seen) => isCurrent && setSeen(seen),
      () => undefined,
    );
    return () => {
      isCurrent = false;
    };
  }, [thread, round]);
  const lines = useMemo(() => text.split('\n'), [text]);
  const rules = useMemo(() => {
    const names = [...new Set(runs.map(({ path }) => fieldPathText(path)))];
    return new Map(
      runs.map(({ begin, path }) => {
        const name = fieldPathText(path);
        return [begin, { name, tint: names.indexOf(name) }];
      }),
    );
  }, [runs]);
  const virtual = useVirtualizer({
    ...{ count: lines.length, estimateSize: () => linePixels, overscan: 20 },
    getScrollElement: () => scroller.current,
  });
  useEffect(() => {
    if (fault !== null) virtual.scrollToIndex(fault - 1, { align: 'center' });
    // Once for each fault, and not whenever the list is measured.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [fault]);
  const taken = rules.size;
  return (
    <Box
      component="section"
      aria-label="Lines"
      sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}
    >
      <Box
        ref={scroller}
        tabIndex={0}
        role="region"
        aria-label="Lines of the file"
        sx={{ flex: 1, minHeight: 200, overflow: 'auto', bgcolor: 'background.paper' }}
      >
        <Box sx={{ height: virtual.getTotalSize(), position: 'relative', minWidth: 'max-content' }}>
          {virtual.getVirtualItems().map(({ index, start, key }) => {
            const rule = rules.get(index + 1);
            return (
              <Box
                key={key}
                className="path"
                style={{ transform: `translateY(${start}px)` }}
                sx={{
                  ...{
                    position: 'absolute',
                    top: 0,
                    height: linePixels,
                    whiteSpace: 'pre',
                    display: 'flex',
                    width: '100%',
                  },
                  bgcolor: rule ? tints[rule.tint % tints.length] : 'transparent',
                  borderBottom: index + 1 === fault ? 2 : 0,
                  borderColor: 'error.main',
                }}
              >
                <Box
                  component="span"
                  sx={{ width: 52, textAlign: 'right', pr: 1, color: 'text.secondary', flexShrink: 0 }}
                >
                  {index + 1}
                </Box>
                <Box
                  component="span"
                  sx={{
                    width: 92,
                    flexShrink: 0,
                    overflow: 'hidden',
                    textOverflow: 'ellipsis',
                    fontStyle: 'italic',
                  }}
                >
                  {rule?.name ?? ''}
                </Box>
                {(lines[index] ?? '').slice(0, 2000)}
              </Box>
            );
          })}
        </Box>
      </Box>
      <Typography
        variant="body2"
        color="text.secondary"
        sx={{ px: 1, py: 0.5, borderTop: 1, borderColor: 'divider' }}
      >
        {`Rules take ${taken.toLocaleString('en')} of ${lines.length.toLocaleString('en')} lines; what no rule takes has no colour.`}
      </Typography>
    </Box>
  );
}
