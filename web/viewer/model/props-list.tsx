import { Autocomplete, Box, Button, TextField, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { Prop } from '../../../contract/arrangements.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { AssetChoice } from '../asset-choice.tsx';
import { NumberField, Triple } from './number-fields.tsx';

/** What hangs on the model: on which bone or locator, and where there. */
export function PropsList({
  props,
  outcomes,
  holders,
  channel,
  build,
  onChange,
}: {
  props: readonly Prop[];
  /** Why one could not be hung; null of the others. */
  outcomes: readonly (string | null)[];
  /** Names of bones and locators. */
  holders: readonly string[];
  channel: number;
  build: string;
  onChange: (props: Prop[]) => void;
}): ReactNode {
  const replace = (at: number, change: Partial<Prop>): void =>
    onChange(props.map((prop, place) => (place === at ? { ...prop, ...change } : prop)));
  return (
    <Box component="section" aria-label="Props" sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
        Props
      </Typography>
      {props.map((prop, at) => (
        <Box
          key={`${at} ${prop.path}`}
          role="group"
          aria-label={`Prop ${nameOf(prop.path)}`}
          sx={{ borderTop: 1, borderColor: 'divider', pt: 0.5, display: 'grid', gap: 0.25 }}
        >
          <Box sx={{ display: 'flex', alignItems: 'center' }}>
            <Typography
              className="path"
              title={prop.path}
              sx={{
                flex: 1,
                minWidth: 0,
                overflow: 'hidden',
                textOverflow: 'ellipsis',
                whiteSpace: 'nowrap',
              }}
            >
              {nameOf(prop.path)}
            </Typography>
            <Button
              size="small"
              aria-label={`Take off ${nameOf(prop.path)}`}
              onClick={() => onChange(props.filter((_, place) => place !== at))}
            >
              Take off
            </Button>
          </Box>
          <Autocomplete<string, false, false, true>
            freeSolo
            size="small"
            options={holders as string[]}
            value={prop.on}
            onChange={(_, on) => replace(at, { on: on ?? '' })}
            renderInput={(parameters) => (
              <TextField
                {...parameters}
                variant="standard"
                label={prop.on === '' ? 'On the model; or on a bone …' : 'On'}
              />
            )}
          />
          <Triple label="Place, m" value={prop.place} onChange={(place) => replace(at, { place })} />
          <Triple
            label="Turn, °"
            value={prop.turnDegrees}
            onChange={(turnDegrees) => replace(at, { turnDegrees })}
          />
          <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 0.75 }}>
            <Typography variant="body2" color="text.secondary" sx={{ width: 74 }}>
              Size, times
            </Typography>
            <NumberField
              label="Size, times"
              isPositive
              value={prop.scale}
              onChange={(scale) => replace(at, { scale })}
            />
          </Box>
          {outcomes[at] && (
            <Typography variant="body2" role="alert" sx={{ overflowWrap: 'anywhere' }}>
              {`It cannot be hung: ${outcomes[at]}.`}
            </Typography>
          )}
        </Box>
      ))}
      <AssetChoice
        {...{ channel, build }}
        kind="model"
        label="Hang a model on it"
        onChoose={(path) =>
          onChange([...props, { path, on: '', place: [0, 0, 0], turnDegrees: [0, 0, 0], scale: 1 }])
        }
      />
    </Box>
  );
}
