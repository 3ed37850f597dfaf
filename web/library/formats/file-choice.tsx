import { Box, TextField } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import { bytesText } from '../../../core/figures.ts';
import { mono } from '../../ui/theme.ts';

/** Which file a sheet is tried on: one that it is for, or any other by its path. */
export function FileChoice({
  path,
  files,
  size,
  onPath,
}: {
  path: string;
  files: { count: number; paths: string[] };
  size: number | null;
  onPath: (path: string) => void;
}): ReactNode {
  const [typed, setTyped] = useState(path);
  useEffect(() => setTyped(path), [path]);
  return (
    <Box sx={{ px: 1, pt: 1, pb: 0.5, borderBottom: 1, borderColor: 'divider' }}>
      <form
        onSubmit={(event) => {
          event.preventDefault();
          onPath(typed);
        }}
      >
        <TextField
          fullWidth
          variant="standard"
          label={`File${size === null ? '' : `, ${bytesText(size)}`}; the sheet is for ${files.count.toLocaleString('en')}`}
          value={typed}
          onChange={({ target }) => {
            setTyped(target.value);
            // One that is chosen from the list is there whole.
            if (files.paths.includes(target.value)) onPath(target.value);
          }}
          onBlur={() => onPath(typed)}
          slotProps={{ htmlInput: { list: 'files-of-sheet', spellCheck: false } }}
          sx={{ '& input': { fontFamily: mono, fontSize: '0.82rem' } }}
        />
        <datalist id="files-of-sheet">
          {files.paths.map((one) => (
            <option key={one} value={one} />
          ))}
        </datalist>
      </form>
    </Box>
  );
}
