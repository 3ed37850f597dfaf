import ArrowDownwardIcon from '@mui/icons-material/ArrowDownward';
import ArrowUpwardIcon from '@mui/icons-material/ArrowUpward';
import DeleteOutlineIcon from '@mui/icons-material/DeleteOutlined';
import { Box, IconButton, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import type { NoteStep } from '../../../contract/notes.ts';
import { stepText } from '../../../core/notes/step-text.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { NoteText } from './note-text.tsx';

const shownAtFirst = 4;

/** One step: what is done, its parameters, and words around it. */
export function StepCard({
  step,
  number,
  isLast,
  isPreview,
  onChange,
  onMove,
  onRemove,
}: {
  step: NoteStep;
  number: number;
  isLast: boolean;
  isPreview: boolean;
  onChange: (step: NoteStep) => void;
  onMove: (by: -1 | 1) => void;
  onRemove: () => void;
}): ReactNode {
  const { what, parameters } = stepText(step);
  const [isWhole, setWhole] = useState(false);
  const shown = isWhole ? parameters : parameters.slice(0, shownAtFirst);
  const name = `step ${number}`;
  return (
    <Box
      component="li"
      sx={{
        display: 'flex',
        gap: 1.5,
        borderTop: 1,
        borderColor: 'divider',
        py: 1,
        alignItems: 'flex-start',
      }}
    >
      <Typography variant="h2" component="span" sx={{ minWidth: 24, textAlign: 'right' }}>
        {number}
      </Typography>
      <Box sx={{ flex: 1, minWidth: 0 }}>
        <Typography sx={{ overflowWrap: 'anywhere' }}>{what}</Typography>
        {shown.map((parameter, at) => (
          <Typography key={at} variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
            {`${parameter.name}: `}
            <span className="path">{parameter.value}</span>
          </Typography>
        ))}
        {parameters.length > shownAtFirst && (
          <Toggle isOn={isWhole} onClick={() => setWhole(!isWhole)}>
            {isWhole ? 'Fewer' : `All ${parameters.length} parameters`}
          </Toggle>
        )}
        {isPreview ? (
          <NoteText body={step.words} />
        ) : (
          <TextField
            multiline
            fullWidth
            size="small"
            sx={{ mt: 0.5 }}
            value={step.words}
            placeholder="Words, where they help"
            onChange={({ target }) => onChange({ ...step, words: target.value })}
            slotProps={{ htmlInput: { 'aria-label': `Words of ${name}` } }}
          />
        )}
      </Box>
      <Box sx={{ display: 'flex' }}>
        <IconButton
          size="small"
          aria-label={`Move ${name} up`}
          disabled={number === 1}
          onClick={() => onMove(-1)}
        >
          <ArrowUpwardIcon fontSize="small" />
        </IconButton>
        <IconButton size="small" aria-label={`Move ${name} down`} disabled={isLast} onClick={() => onMove(1)}>
          <ArrowDownwardIcon fontSize="small" />
        </IconButton>
        <IconButton size="small" aria-label={`Remove ${name}`} onClick={onRemove}>
          <DeleteOutlineIcon fontSize="small" />
        </IconButton>
      </Box>
    </Box>
  );
}
