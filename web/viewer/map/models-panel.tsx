import { Box, Typography } from '@mui/material';
import { useMemo, useState, type ReactNode } from 'react';
import type { MapScene } from '../../../contract/assets.ts';
import { plural } from '../../../core/figures.ts';
import { TreeList, type TreeRow } from '../../lists/tree-list.tsx';
import { nameOf } from '../../ui/path-text.tsx';
import { TextFilter } from '../../ui/text-filter.tsx';

interface ModelRow extends TreeRow {
  model: string;
  path: string | null;
  count: number;
  triangles: number | null;
}

/** The models of a map by how often they stand: those that the build lacks first. */
export function ModelsPanel({
  scene,
  onChoose,
}: {
  scene: MapScene;
  onChoose: (model: string) => void;
}): ReactNode {
  const [words, setWords] = useState('');
  const all = useMemo(() => {
    const counts = new Map<string, number>();
    for (const { model } of scene.placements) counts.set(model, (counts.get(model) ?? 0) + 1);
    return [...counts]
      .map(([model, count]): ModelRow => {
        const path = scene.models[model] ?? null;
        const triangles = path === null ? null : (scene.costs[path]?.triangles ?? null);
        return { key: model, depth: 0, isOpen: null, model, path, count, triangles };
      })
      .sort((a, b) => Number(b.path === null) - Number(a.path === null) || b.count - a.count);
  }, [scene]);
  const asked = words.trim().toLowerCase();
  const rows = all.filter(({ model }) => model.toLowerCase().includes(asked));
  const missing = all.filter(({ path }) => path === null).length;
  return (
    <>
      <Box sx={{ p: 1, display: 'grid', gap: 0.75 }}>
        <TextFilter value={words} onChange={setWords} label="Words in names" name="Search the models" />
        <Typography variant="body2" role="status">
          {`${plural(all.length, 'model')}${missing > 0 ? `, ${missing.toLocaleString('en')} missing in this build` : ''}`}
        </Typography>
      </Box>
      <TreeList
        label="Models of the map"
        rows={rows}
        chosen={null}
        onChoose={({ model }) => onChoose(model)}
        onOpen={() => undefined}
      >
        {({ model, path, count, triangles }) => (
          <>
            <Box
              component="span"
              className="path"
              title={path ?? `${model}: this build lacks it`}
              sx={{
                ...{
                  flex: 1,
                  minWidth: 0,
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  whiteSpace: 'nowrap',
                },
                color: path === null ? 'primary.main' : 'text.primary',
              }}
            >
              {`${nameOf(model) || 'no model'}${path === null ? ' (missing)' : ''}`}
            </Box>
            <Box component="span" sx={{ color: 'text.secondary', fontSize: '0.78rem' }}>
              {`${count.toLocaleString('en')} ×${triangles === null ? '' : ` ${triangles.toLocaleString('en')}`}`}
            </Box>
          </>
        )}
      </TreeList>
    </>
  );
}
