import { Autocomplete, Box, Button, Slider, TextField, Typography } from '@mui/material';
import type { ReactNode } from 'react';
import type { Layer } from '../../../contract/arrangements.ts';
import { moves } from '../../../core/kinds/model/pose/lay-over.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import type { BoneEntry } from '../engine/standing-model.ts';
import { clipKey, groupNames, type ClipChoice } from './clip-choices.ts';
import { isMasked, maskOf, maskWords } from './mask-words.ts';
import type { ReadyClip } from './use-clips.ts';

const moveNames = { position: 'Position', rotation: 'Rotation', scale: 'Size' } as const;
const shownLacking = 8;

/** Clips that lie over the one that is played: what each of them moves, and how much. */
export function LayersList({
  layers,
  choices,
  ready,
  bones,
  onChange,
}: {
  layers: readonly Layer[];
  choices: readonly ClipChoice[];
  ready: ReadonlyMap<string, ReadyClip | string>;
  bones: readonly BoneEntry[];
  onChange: (layers: Layer[]) => void;
}): ReactNode {
  const replace = (at: number, change: Partial<Layer>): void =>
    onChange(layers.map((layer, place) => (place === at ? { ...layer, ...change } : layer)));
  return (
    <Box component="section" aria-label="Layers of clips" sx={{ display: 'grid', gap: 1 }}>
      <Typography variant="h3" sx={{ fontSize: '0.95rem' }}>
        Layers
      </Typography>
      {layers.map((layer, at) => (
        <LayerFields
          key={`${at} ${clipKey(layer.path, layer.clip)}`}
          {...{ layer, at, bones }}
          ready={ready.get(clipKey(layer.path, layer.clip))}
          onChange={(change) => replace(at, change)}
          onRemove={() => onChange(layers.filter((_, place) => place !== at))}
          onRaise={
            at + 1 < layers.length
              ? () =>
                  onChange(
                    layers.map((one, place) =>
                      place === at ? (layers[at + 1] ?? one) : place === at + 1 ? layer : one,
                    ),
                  )
              : null
          }
        />
      ))}
      <Autocomplete<ClipChoice>
        size="small"
        options={choices}
        value={null}
        blurOnSelect
        clearOnBlur
        groupBy={({ group }) => groupNames[group]}
        getOptionLabel={({ path, name }) => (path === '' ? name : `${name} · ${nameOf(path)}`)}
        getOptionKey={({ key, group }) => `${group} ${key}`}
        onChange={(_, choice) => {
          if (choice)
            onChange([
              ...layers,
              {
                ...{ path: choice.path, clip: choice.name, weight: 1, moves: [...moves] },
                mask: { branches: [], words: [], bones: [] },
              },
            ]);
        }}
        slotProps={{ popper: { sx: { minWidth: 340 } } }}
        renderInput={(parameters) => <TextField {...parameters} variant="standard" label="Lay a clip over" />}
      />
    </Box>
  );
}

function LayerFields({
  layer,
  at,
  ready,
  bones,
  onChange,
  onRemove,
  onRaise,
}: {
  layer: Layer;
  at: number;
  ready: ReadyClip | string | undefined;
  bones: readonly BoneEntry[];
  onChange: (change: Partial<Layer>) => void;
  onRemove: () => void;
  onRaise: (() => void) | null;
}): ReactNode {
  const name = `Layer ${at + 1}, ${layer.clip}`;
  const names = [...new Set(bones.map((bone) => bone.name))];
  return (
    <Box
      role="group"
      aria-label={name}
      sx={{ borderTop: 1, borderColor: 'divider', pt: 0.5, display: 'grid', gap: 0.25 }}
    >
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
        <Typography
          className="path"
          title={layer.path === '' ? layer.clip : `${layer.clip}, ${layer.path}`}
          sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
        >
          {layer.clip}
        </Typography>
        {onRaise && (
          <Button size="small" sx={{ minWidth: 0 }} onClick={onRaise} aria-label={`Above the next: ${name}`}>
            Later
          </Button>
        )}
        <Button size="small" sx={{ minWidth: 0 }} onClick={onRemove} aria-label={`Take off ${name}`}>
          Take off
        </Button>
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Slider
          size="small"
          aria-label={`Weight of ${name}`}
          min={0}
          max={1}
          step={0.05}
          value={layer.weight}
          onChange={(_, weight) => onChange({ weight })}
          sx={{ mx: 1 }}
        />
        <Typography
          variant="body2"
          sx={{ width: 44, whiteSpace: 'nowrap', textAlign: 'right', fontVariantNumeric: 'tabular-nums' }}
        >
          {`${Math.round(layer.weight * 100)} %`}
        </Typography>
      </Box>
      <Box sx={{ display: 'flex', gap: 0.25 }}>
        {moves.map((move) => {
          const isOn = layer.moves.includes(move);
          return (
            <Toggle
              key={move}
              isOn={isOn}
              onClick={() =>
                onChange({ moves: moves.filter((one) => (one === move ? !isOn : layer.moves.includes(one))) })
              }
            >
              {moveNames[move]}
            </Toggle>
          );
        })}
      </Box>
      {bones.length > 0 && (
        <Autocomplete<string, true, false, true>
          multiple
          freeSolo
          size="small"
          options={names.flatMap((bone) => [`${bone} and below`, bone])}
          value={maskWords(layer.mask)}
          onChange={(_, said) => onChange({ mask: maskOf(said, new Set(names)) })}
          slotProps={{ popper: { sx: { minWidth: 280 } } }}
          renderInput={(parameters) => (
            <TextField
              {...parameters}
              variant="standard"
              label={isMasked(layer.mask) ? 'Only these bones' : 'All bones; or only …'}
            />
          )}
        />
      )}
      {typeof ready === 'string' && (
        <Typography variant="body2" role="alert" sx={{ overflowWrap: 'anywhere' }}>
          {`This clip cannot be laid over: ${ready}.`}
        </Typography>
      )}
      {typeof ready === 'object' && <Lacking bones={ready.lacking} />}
    </Box>
  );
}

/** Bones that a clip moves and the model has not. */
export function Lacking({ bones }: { bones: readonly string[] }): ReactNode {
  if (bones.length === 0) return null;
  return (
    <Typography variant="body2" color="text.secondary" sx={{ overflowWrap: 'anywhere' }}>
      {`Not on this model: ${bones.slice(0, shownLacking).join(', ')}${
        bones.length > shownLacking ? ` and ${(bones.length - shownLacking).toLocaleString('en')} more` : ''
      }`}
    </Typography>
  );
}
