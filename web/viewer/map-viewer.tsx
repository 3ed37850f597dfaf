import { Box, Button, LinearProgress, Typography, useTheme } from '@mui/material';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import type { Asset, MapScene } from '../../contract/assets.ts';
import type { Placement } from '../../contract/facts.ts';
import { plural } from '../../core/figures.ts';
import { fileAddress, useSceneQuery } from './assets-api.ts';
import { Toggle } from '../ui/toggle.tsx';
import { failureText } from '../ui/api.ts';
import { Empty, Failure, Loading } from '../ui/states.tsx';
import { usePlace } from '../ui/use-span.ts';
import { ClassMark } from './class-mark.tsx';
import { MapPlan } from './map-plan.tsx';
import { boxes, placeModels } from './map-scene.ts';
import { Stage } from './stage.tsx';
import { Toolbar } from './toolbar.tsx';
import { useModelCanvas } from './use-model-canvas.ts';

/** A map from above and in 3D. Classes are switched on and off; models come when they are asked for. */
export default function MapViewer({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  const { data: scene, error } = useSceneQuery({ channel: channel.id, build: asset.build, path: asset.path });
  if (error) return <Failure text={failureText(error)} />;
  if (!scene) return <Loading what="the placements" />;
  if (scene.placements.length === 0) return <Empty title="Nothing is placed on this map" />;
  return <LoadedMap asset={asset} scene={scene} />;
}

function LoadedMap({ asset, scene }: { asset: Asset; scene: MapScene }): ReactNode {
  const [view, setView] = useState<'plan' | 'space'>('plan');
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [selected, setSelected] = useState<string | null>(null);
  const classes = useMemo(() => [...Map.groupBy(scene.placements, (placement) => placement.class)], [scene]);
  const classNames = useMemo(() => classes.map(([name]) => name), [classes]);
  const shown = useMemo(
    () => scene.placements.filter((placement) => !hidden.has(placement.class)),
    [scene, hidden],
  );
  const missing = Object.entries(scene.models).filter(([, path]) => path === null);
  const chosen = scene.placements.find(({ id }) => id === selected);
  const toggle = (name: string): void => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    setHidden(next);
  };
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <Toolbar label="Map">
        <Toggle isOn={view === 'plan'} onClick={() => setView('plan')}>
          From above
        </Toggle>
        <Toggle isOn={view === 'space'} onClick={() => setView('space')}>
          In 3D
        </Toggle>
        <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5 }} />
        {classes.map(([name, items], index) => (
          <Toggle key={name} isOn={!hidden.has(name)} onClick={() => toggle(name)}>
            <ClassMark index={index} />
            {`${name} ${items.length.toLocaleString('en')}`}
          </Toggle>
        ))}
      </Toolbar>
      {missing.length > 0 && (
        <Typography
          variant="body2"
          sx={{ px: 1.5, py: 0.5, bgcolor: 'background.paper', borderBottom: 1, borderColor: 'divider' }}
        >
          {`This build lacks ${plural(missing.length, 'model')} that the map names: `}
          <span className="path">{missing.map(([model]) => model).join(', ')}</span>
        </Typography>
      )}
      {view === 'plan' ? (
        <MapPlan
          all={scene.placements}
          placements={shown}
          classes={classNames}
          selected={selected}
          onSelect={setSelected}
        />
      ) : (
        <MapSpace asset={asset} scene={scene} placements={shown} />
      )}
      {chosen && view === 'plan' && (
        <PlacementLine placement={chosen} isMissing={scene.models[chosen.model] === null} />
      )}
    </Box>
  );
}

function PlacementLine({ placement, isMissing }: { placement: Placement; isMissing: boolean }): ReactNode {
  const { id, model, position, scale } = placement;
  return (
    <Box
      role="status"
      className="path"
      sx={{
        p: 1,
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'divider',
        overflowWrap: 'anywhere',
      }}
    >
      {`${id} (${placement.class}): ${model}${isMissing ? ' (missing)' : ''}, at ${position.map((value) => value.toFixed(2)).join(', ')} m, scale ${scale.join(', ')}`}
    </Box>
  );
}

function MapSpace({
  asset,
  scene,
  placements,
}: {
  asset: Asset;
  scene: MapScene;
  placements: readonly Placement[];
}): ReactNode {
  const { channel } = usePlace();
  const { palette } = useTheme();
  const used = useModelCanvas();
  const { canvas } = used;
  const [isFull, setFull] = useState(false);
  const [progress, setProgress] = useState<{ done: number; total: number } | null>(null);
  const [failures, setFailures] = useState<string[]>([]);
  useEffect(() => {
    if (!canvas) return;
    if (!isFull) {
      canvas.show(boxes(placements, palette.text.secondary));
      return;
    }
    let isCurrent = true;
    const addressOf = (model: string): string | null => {
      const path = scene.models[model];
      return path ? fileAddress(channel.id, asset.build, path) : null;
    };
    void placeModels(
      placements,
      addressOf,
      palette.text.secondary,
      (done, total) => isCurrent && setProgress({ done, total }),
    ).then((placed) => {
      if (!isCurrent) return;
      canvas.show(placed.scene);
      setFailures(placed.failures);
      setProgress(null);
    });
    return () => {
      isCurrent = false;
    };
  }, [canvas, isFull, placements, palette, scene, channel, asset]);
  const modelCount = new Set(placements.map(({ model }) => model)).size;
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minHeight: 0, position: 'relative' }}>
      <Stage used={used} label="Map" />
      {used.failure && <Failure text={used.failure} />}
      <Box
        sx={{ position: 'absolute', right: 8, bottom: 8, bgcolor: 'background.paper', p: 1, maxWidth: 360 }}
      >
        {progress ? (
          <>
            <Typography
              variant="body2"
              role="status"
            >{`Loading model ${progress.done} of ${progress.total}`}</Typography>
            <LinearProgress
              aria-label="Loading models"
              variant="determinate"
              value={(100 * progress.done) / progress.total}
            />
          </>
        ) : (
          <Button onClick={() => setFull(!isFull)} variant="outlined">
            {isFull
              ? 'Boxes instead'
              : `Load ${plural(modelCount, 'model')} for ${plural(placements.length, 'placement')}`}
          </Button>
        )}
        {failures.map((failure) => (
          <Typography key={failure} variant="body2" role="alert" sx={{ overflowWrap: 'anywhere' }}>
            {failure}
          </Typography>
        ))}
      </Box>
    </Box>
  );
}
