import { Box, Link as MuiLink, Typography } from '@mui/material';
import { useMemo, useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import type { MapScene } from '../../../contract/assets.ts';
import type { Placement } from '../../../contract/facts.ts';
import { plural } from '../../../core/figures.ts';
import { TreeList, type TreeRow } from '../../lists/tree-list.tsx';
import { nameOf } from '../../ui/path-text.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';

interface PlacementRow extends TreeRow {
  placement: Placement;
}

/** What stands on a map: searched, chosen, and said what it is. */
export function PlacementsPanel({
  scene,
  shown,
  chosen,
  onChoose,
}: {
  scene: MapScene;
  shown: readonly Placement[];
  chosen: Placement | null;
  onChoose: (placement: Placement | null) => void;
}): ReactNode {
  const [words, setWords] = useState('');
  const rows = useMemo(() => {
    const asked = words.toLowerCase().split(/\s+/).filter(Boolean);
    return shown.flatMap((placement): PlacementRow[] => {
      const { id, model, name, locator, class: group } = placement;
      const says = `${id} ${model} ${name} ${locator} ${group}`.toLowerCase();
      return asked.every((word) => says.includes(word))
        ? [{ key: id, depth: 0, isOpen: null, placement }]
        : [];
    });
  }, [shown, words]);
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        <TextFilter
          value={words}
          onChange={setWords}
          label="Words of name, model, class"
          name="Search the placements"
        />
        <Typography variant="body2" role="status">
          {`${rows.length.toLocaleString('en')} of ${plural(scene.placements.length, 'placement')}`}
        </Typography>
      </Box>
      <TreeList
        label="Placements"
        rows={rows}
        chosen={chosen?.id ?? null}
        onChoose={({ placement }) => onChoose(placement.id === chosen?.id ? null : placement)}
        onOpen={() => undefined}
      >
        {({ placement: { id, model } }) => (
          <Box
            component="span"
            className="path"
            title={`${id}: ${model}`}
            sx={{ flex: 1, minWidth: 0, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}
          >
            {`${id} ${nameOf(model)}`}
          </Box>
        )}
      </TreeList>
      {chosen && <OnePlacement placement={chosen} path={scene.models[chosen.model] ?? null} />}
    </>
  );
}

function OnePlacement({ placement, path }: { placement: Placement; path: string | null }): ReactNode {
  const place = usePlace();
  const span = useSpan();
  const { id, model, position, rotation, scale, name, locator } = placement;
  const facts: [string, string][] = [
    ['at', `${position.map((value) => value.toFixed(2)).join(', ')} m`],
    ['turned', rotation.map((value) => Number(value.toFixed(4))).join(', ')],
    ['scale', scale.map((value) => Number(value.toPrecision(4))).join(', ')],
    ...(name === '' ? [] : ([['name', name]] as [string, string][])),
    ...(locator === '' ? [] : ([['locator', locator]] as [string, string][])),
  ];
  return (
    <Box
      role="status"
      sx={{
        p: 1,
        borderTop: 1,
        borderColor: 'divider',
        overflowWrap: 'anywhere',
        maxHeight: 190,
        overflow: 'auto',
      }}
    >
      <Typography className="path" component="div">{`${id} (${placement.class})`}</Typography>
      {path === null ? (
        <Typography variant="body2" color="primary">
          {model === '' ? 'It has no model.' : `This build lacks ${model}.`}
        </Typography>
      ) : (
        <MuiLink component={Link} to={assetPath(place, span, path)} className="path">
          {path}
        </MuiLink>
      )}
      {facts.map(([label, value]) => (
        <Typography key={label} variant="body2" component="div" sx={{ display: 'flex', gap: 1 }}>
          <Box component="span" sx={{ width: 50, flexShrink: 0, color: 'text.secondary' }}>
            {label}
          </Box>
          <span className="path">{value}</span>
        </Typography>
      ))}
    </Box>
  );
}
