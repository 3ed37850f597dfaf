import { Box, Button, TextField, Typography } from '@mui/material';
import { useState, type FormEvent, type ReactNode } from 'react';
import type { SetUp } from '../../../contract/arrangements.ts';
import { hiddenBy, shownVariant, type VariantGroup } from '../../../core/kinds/model/parts/variant-sets.ts';
import { plural } from '../../../core/figures.ts';
import { Toggle } from '../../ui/toggle.tsx';
import type { PartEntry } from '../engine/model-parts.ts';
import { partKey } from './set-up.ts';

const byHand = 'made by hand';

/** Variants that somebody made: parts by their keys, as sets of which one is seen at a time. */
export function groupByHand(variants: SetUp['variants'], parts: readonly PartEntry[]): VariantGroup | null {
  if (variants.length === 0) return null;
  const sets = variants.map(({ name, parts: keys }) => {
    const wanted = new Set(keys);
    return { name, parts: parts.filter((part) => wanted.has(partKey(part))).map(({ id }) => id) };
  });
  return { name: byHand, reason: 'by a person', variants: sets };
}

/** Sets of parts of which one is seen at a time, switched as a whole. */
export function VariantsList({
  groups,
  parts,
  hidden,
  variants,
  onHidden,
  onVariants,
}: {
  groups: readonly VariantGroup[];
  parts: readonly PartEntry[];
  hidden: ReadonlySet<number>;
  /** Those that were made by hand. */
  variants: SetUp['variants'];
  onHidden: (hidden: ReadonlySet<number>) => void;
  /** Null where nothing is kept of what is set up. */
  onVariants: ((variants: SetUp['variants']) => void) | null;
}): ReactNode {
  const [isMaking, setMaking] = useState(false);
  const [name, setName] = useState('');
  const hand = groupByHand(variants, parts);
  const all = hand ? [...groups, hand] : groups;
  const onMake = (event: FormEvent): void => {
    event.preventDefault();
    const called = name.trim();
    if (called === '' || !onVariants) return;
    const shown = parts.filter(({ id, helper }) => !hidden.has(id) && helper === null).map(partKey);
    onVariants([...variants.filter((one) => one.name !== called), { name: called, parts: shown }]);
    setName('');
    setMaking(false);
  };
  if (all.length === 0 && !onVariants) return null;
  return (
    <Box component="section" aria-label="Variants" sx={{ display: 'grid', gap: 0.5 }}>
      {all.map((group) => {
        const shown = shownVariant(group, hidden);
        return (
          <Box key={group.name} role="group" aria-label={group.name}>
            <Typography variant="body2" title={`Told by ${group.reason}`}>
              {`${group.variants.length} variants, ${group.name === byHand ? byHand : `told by ${group.reason}`}`}
            </Typography>
            <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.25 }}>
              {group.variants.map((one) => (
                <Toggle
                  key={one.name}
                  isOn={shown === one.name}
                  onClick={() =>
                    onHidden(
                      new Set([
                        ...[...hidden].filter((id) => !one.parts.includes(id)),
                        ...hiddenBy(group, one.name),
                      ]),
                    )
                  }
                >
                  {`${one.name} (${plural(one.parts.length, 'part')})`}
                </Toggle>
              ))}
              {group.name === byHand && onVariants && shown !== null && (
                <Button size="small" onClick={() => onVariants(variants.filter((one) => one.name !== shown))}>
                  {`Drop ${shown}`}
                </Button>
              )}
            </Box>
          </Box>
        );
      })}
      {onVariants && !isMaking && parts.length > 1 && (
        <Button size="small" sx={{ justifySelf: 'start' }} onClick={() => setMaking(true)}>
          Make a variant of what is shown
        </Button>
      )}
      {isMaking && (
        <Box component="form" onSubmit={onMake} sx={{ display: 'flex', gap: 1, alignItems: 'flex-end' }}>
          <TextField
            autoFocus
            fullWidth
            variant="standard"
            size="small"
            label="Name of the variant"
            value={name}
            onChange={({ target }) => setName(target.value)}
            slotProps={{ htmlInput: { maxLength: 120 } }}
          />
          <Button type="submit" disabled={name.trim() === ''}>
            Make
          </Button>
        </Box>
      )}
    </Box>
  );
}
