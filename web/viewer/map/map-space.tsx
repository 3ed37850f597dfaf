import { Box, MenuItem, TextField, Typography, useTheme } from '@mui/material';
import { useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Vector3 } from 'three';
import type { MapScene } from '../../../contract/assets.ts';
import type { Placement } from '../../../contract/facts.ts';
import { bytesText, plural } from '../../../core/figures.ts';
import { costOf } from '../../../core/kinds/map/cost.ts';
import { fileAddress, shownAddress } from '../asset-addresses.ts';
import { Stage } from '../stage.tsx';
import { useModelCanvas } from '../use-model-canvas.ts';
import { MapWorld, type WorldState } from './map-world.ts';
import { useGroundMesh } from './use-ground-mesh.ts';
import type { Ground } from './use-ground.ts';

/** What is drawn as it is at once, and what of files is fetched for that. */
const budgets = [
  [0, 'Boxes alone'],
  [300_000, '300,000 triangles'],
  [1_000_000, '1 million triangles'],
  [5_000_000, '5 million triangles'],
] as const;
const mostBytes = 512 * 1024 ** 2;
/** While somebody flies, what is near is chosen anew so often. */
const chosenMs = 250;

/** A map in space: what it costs stands there before any of it is loaded. */
export function MapSpace({
  channel,
  build,
  scene,
  hidden,
  chosen,
  budget,
  ground,
  still,
  onBudget,
  onChoose,
}: {
  channel: number;
  build: string;
  scene: MapScene;
  hidden: ReadonlySet<string>;
  chosen: Placement | null;
  /** Triangles. */
  budget: number;
  /** What all stands on; null for none. */
  ground: Ground | null;
  /** Its picture by the server, for browsers that draw nothing in 3D. */
  still: string;
  onBudget: (triangles: number) => void;
  onChoose: (placement: Placement | null) => void;
}): ReactNode {
  const { palette } = useTheme();
  const used = useModelCanvas({ ink: palette.text.primary, accent: palette.primary.main });
  const { canvas } = used;
  const [state, setState] = useState<WorldState | null>(null);
  const [world, setWorld] = useState<MapWorld | null>(null);
  /** As it begins: what is said later is said to a map that stands there. */
  const begun = useRef({ hidden, budget });
  const [box, missing] = [palette.text.secondary, palette.primary.main];
  useEffect(() => {
    if (!canvas) return;
    const made = new MapWorld(scene, { box, missing }, (path) => [
      fileAddress(channel, build, path),
      shownAddress(channel, build, path),
    ]);
    made.onState = setState;
    canvas.show(made.scene);
    made.onChange = () => canvas.draw();
    let waiting: ReturnType<typeof setTimeout> | null = null;
    const look = (): void => made.update(new Vector3(...canvas.view.position));
    canvas.onView = () => {
      waiting ??= setTimeout(() => {
        waiting = null;
        look();
      }, chosenMs);
    };
    look();
    made.setShown(begun.current.hidden, { triangles: begun.current.budget, bytes: mostBytes });
    setWorld(made);
    return () => {
      if (waiting !== null) clearTimeout(waiting);
      canvas.onView = () => undefined;
      made.close();
      setWorld(null);
    };
  }, [canvas, scene, box, missing, channel, build]);
  useEffect(() => world?.setShown(hidden, { triangles: budget, bytes: mostBytes }), [world, hidden, budget]);
  const latest = useRef(onChoose);
  useEffect(() => {
    latest.current = onChoose;
  });
  const pointed = useRef<Placement | null>(null);
  useEffect(() => {
    if (!canvas || !world) return;
    canvas.onHit = (hit) => {
      pointed.current = hit && world.placementAt(hit.object, hit.instance);
      latest.current(pointed.current);
    };
    return () => {
      canvas.onHit = () => undefined;
    };
  }, [canvas, world]);
  useEffect(() => {
    if (!canvas || !world) return;
    // What somebody points at here is in view already.
    canvas.mark(chosen && world.boxOf(chosen), chosen !== null && chosen !== pointed.current);
  }, [canvas, world, chosen]);
  const groundFailure = useGroundMesh(canvas, world, ground, budget);
  const cost = useMemo(() => costOf(scene), [scene]);
  if (used.failure)
    return (
      <Box
        sx={{ flex: 1, minWidth: 0, overflow: 'auto', p: 2, display: 'grid', gap: 2, alignContent: 'start' }}
      >
        <Typography role="status">{`${used.failure}. Below is the server’s picture.`}</Typography>
        <Box component="img" src={still} alt="The map with its models" sx={{ justifySelf: 'center' }} />
      </Box>
    );
  return (
    <Box
      sx={{
        flex: 1,
        display: 'flex',
        flexDirection: 'column',
        minHeight: 0,
        minWidth: 0,
        position: 'relative',
      }}
    >
      <Stage used={used} label="Map" />
      <Box
        sx={{
          ...{ display: 'flex', flexWrap: 'wrap', columnGap: 2, alignItems: 'baseline', px: 1, py: 0.5 },
          ...{ bgcolor: 'background.paper', borderTop: 1, borderColor: 'divider' },
        }}
      >
        <Typography variant="body2" aria-label="What the map costs" sx={{ flex: '1 1 100%' }}>
          {`${plural(cost.placements, 'placement')} of ${plural(cost.models, 'model')}: ${cost.unread > 0 ? 'at least ' : ''}${plural(cost.triangles, 'triangle')}, ${plural(cost.materials, 'material')}, ${plural(cost.textures, 'texture')}; ${bytesText(cost.fetchBytes)} to fetch, ${bytesText(cost.holdBytes)} to hold without textures`}
        </Typography>
        {/* A line of its own: what changes while models come changes nothing of the room above. */}
        <Typography
          variant="body2"
          role="status"
          sx={{ fontVariantNumeric: 'tabular-nums', flex: '1 1 200px' }}
        >
          {state && budget > 0
            ? `${state.detailed.toLocaleString('en')} as they are, ${plural(state.loaded, 'model')} here${state.loading > 0 ? `, ${state.loading} on the way` : ''}`
            : 'all as boxes'}
        </Typography>
        <TextField
          select
          variant="standard"
          size="small"
          value={budget}
          onChange={({ target }) => onBudget(Number(target.value))}
          slotProps={{
            select: { 'aria-label': 'Drawn as it is' },
            htmlInput: { 'aria-label': 'Drawn as it is' },
          }}
        >
          {budgets.map(([triangles, label]) => (
            <MenuItem key={triangles} value={triangles}>
              {label}
            </MenuItem>
          ))}
        </TextField>
        {[...(groundFailure ? [groundFailure] : []), ...(state?.failures ?? [])]
          .slice(0, 3)
          .map((failure) => (
            <Typography
              key={failure}
              variant="body2"
              role="alert"
              sx={{ width: 1, overflowWrap: 'anywhere' }}
            >
              {failure}
            </Typography>
          ))}
      </Box>
    </Box>
  );
}
