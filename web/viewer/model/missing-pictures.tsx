import { Box, Button, MenuItem, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { TextureSets } from '../../../contract/texture-sets.ts';
import { plural } from '../../../core/figures.ts';
import { nameOf } from '../../ui/path-text.tsx';

/** Pictures that a model names and its build lacks, with what they may be: chosen first, linked then. */
export function MissingPictures({
  missing,
  onLink,
}: {
  missing: TextureSets['missing'];
  /** Takes files for what is missing; nothing where links are not made here. */
  onLink?: (links: { text: string; target: string }[]) => void;
}): ReactNode {
  const [chosen, setChosen] = useState<ReadonlyMap<string, string>>(new Map());
  const targetOf = ({ text, candidates }: TextureSets['missing'][number]): string =>
    chosen.get(text) ?? candidates.find(({ isCertain }) => isCertain)?.path ?? '';
  const links = missing.flatMap((one) => {
    const target = targetOf(one);
    return target === '' ? [] : [{ text: one.text, target }];
  });
  return (
    <Box component="section" aria-label="Missing pictures" sx={{ display: 'grid', gap: 0.5 }}>
      <Typography variant="body2" color="error">
        {`${plural(missing.length, 'picture')} that it names ${missing.length === 1 ? 'is' : 'are'} not in this build.`}
      </Typography>
      {missing.map((one) => (
        <TextField
          key={one.text}
          select
          size="small"
          variant="standard"
          label={one.text}
          value={targetOf(one)}
          disabled={one.candidates.length === 0}
          slotProps={{
            select: { displayEmpty: true },
            inputLabel: { shrink: true, sx: { maxWidth: '130%' } },
          }}
          onChange={({ target }) => setChosen((before) => new Map(before).set(one.text, target.value))}
        >
          <MenuItem value="">
            {one.candidates.length === 0 ? 'Nothing is called like it' : 'Left missing'}
          </MenuItem>
          {one.candidates.map(({ path, reason }) => (
            <MenuItem key={path} value={path} title={path}>
              <Box>
                <span className="path">{nameOf(path)}</span>
                <Typography variant="caption" component="div" color="text.secondary">
                  {reason}
                </Typography>
              </Box>
            </MenuItem>
          ))}
        </TextField>
      ))}
      {onLink && (
        <Button disabled={links.length === 0} onClick={() => onLink(links)} sx={{ justifySelf: 'start' }}>
          {links.length === 0 ? 'Link' : `Link ${plural(links.length, 'picture')}`}
        </Button>
      )}
    </Box>
  );
}
