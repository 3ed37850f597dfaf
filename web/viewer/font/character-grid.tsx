import { Box } from '@mui/material';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import type { FontCharacters } from '../../../contract/fonts.ts';
import { characterAt, codeText } from '../../../core/kinds/font/characters.ts';

const cellPixels = 52;

/** All characters of a font, in the order of their codes. */
export function CharacterGrid({
  characters,
  family,
  marked,
  onType,
}: {
  characters: FontCharacters;
  family: string;
  /** Place of the one that was looked for; -1 for none. */
  marked: number;
  onType: (letter: string) => void;
}): ReactNode {
  const scroller = useRef<HTMLDivElement>(null);
  const [across, setAcross] = useState(12);
  useEffect(() => {
    const element = scroller.current;
    if (!element) return;
    const observer = new ResizeObserver(([entry]) =>
      setAcross(Math.max(1, Math.floor((entry?.contentRect.width ?? 0) / cellPixels))),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  const virtual = useVirtualizer({
    count: Math.ceil(characters.total / across),
    getScrollElement: () => scroller.current,
    estimateSize: () => cellPixels,
    overscan: 6,
  });
  useEffect(() => {
    if (marked >= 0) virtual.scrollToIndex(Math.floor(marked / across), { align: 'center' });
  }, [virtual, marked, across]);
  return (
    <Box
      ref={scroller}
      tabIndex={0}
      role="region"
      aria-label="Characters of the font"
      sx={{ flex: 1, minHeight: 120, overflow: 'auto', bgcolor: 'background.paper' }}
    >
      <Box sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map(({ index, start, key }) => (
          <Box
            key={key}
            style={{ transform: `translateY(${start}px)` }}
            sx={{ position: 'absolute', top: 0, display: 'flex' }}
          >
            {Array.from({ length: across }, (_, column) => {
              const place = index * across + column;
              const code = place < characters.total ? characterAt(characters, place) : -1;
              if (code < 0) return null;
              const letter = String.fromCodePoint(code);
              return (
                <Box
                  key={code}
                  component="button"
                  type="button"
                  tabIndex={-1}
                  title={`${codeText(code)}: type it`}
                  onClick={() => onType(letter)}
                  sx={{
                    ...{ width: cellPixels, height: cellPixels, p: 0, border: 1, borderColor: 'divider' },
                    ...{ bgcolor: place === marked ? 'plate' : 'transparent', color: 'text.primary' },
                    ...{ cursor: 'pointer', overflow: 'hidden', position: 'relative', fontSize: 24 },
                    outline: place === marked ? '2px solid' : 'none',
                    outlineColor: 'primary.main',
                  }}
                >
                  <span style={{ fontFamily: family }}>{letter}</span>
                </Box>
              );
            })}
          </Box>
        ))}
      </Box>
    </Box>
  );
}
