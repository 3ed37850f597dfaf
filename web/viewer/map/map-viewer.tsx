import { Box, Typography } from '@mui/material';
import { useMemo, type ReactNode } from 'react';
import type { Asset, MapScene } from '../../../contract/assets.ts';
import type { Placement } from '../../../contract/facts.ts';
import { plural } from '../../../core/figures.ts';
import { grouped } from '../../../core/grouped.ts';
import { shownAddress } from '../asset-addresses.ts';
import { useSceneQuery } from '../assets-api.ts';
import { failureText } from '../../ui/api.ts';
import { PaneTabs } from '../../ui/pane-tabs.tsx';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace } from '../../ui/use-span.ts';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { Toolbar } from '../toolbar.tsx';
import { ClassMark } from './class-mark.tsx';
import { GroundPanel } from './ground-panel.tsx';
import { groundSaid } from './ground-words.ts';
import { MapPlan } from './map-plan.tsx';
import { MapSpace } from './map-space.tsx';
import { ModelsPanel } from './models-panel.tsx';
import { PlacementsPanel } from './placements-panel.tsx';
import { useGround } from './use-ground.ts';

const views = { plan: 'From above', space: 'In 3D', both: 'Both' } as const;
type View = keyof typeof views;
const panels = { placements: 'Placements', models: 'Models', ground: 'Ground' } as const;
/** What a machine without a graphics card draws while somebody flies. */
const usualBudget = 300_000;

/** A map from above and in 3D, the one linked with the other. Classes are switched on and off; models come as one comes near. */
export default function MapViewer({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  const { data: scene, error } = useSceneQuery({ channel: channel.id, build: asset.build, path: asset.path });
  if (error) return <Failure text={failureText(error)} />;
  if (!scene) return <Loading what="the placements" />;
  if (scene.placements.length === 0) return <Empty title="Nothing is placed on this map" />;
  return <LoadedMap asset={asset} scene={scene} />;
}

function LoadedMap({ asset, scene }: { asset: Asset; scene: MapScene }): ReactNode {
  const { channel } = usePlace();
  const [words, say] = useViewerWords(true);
  const asked = words.get('view');
  const view: View = asked === 'space' || asked === 'both' ? asked : 'plan';
  const off = words.get('off') ?? '';
  const hidden = useMemo(() => new Set(off.split(',').filter(Boolean)), [off]);
  const classes = useMemo(() => [...grouped(scene.placements, (placement) => placement.class)], [scene]);
  const classNames = useMemo(() => classes.map(([name]) => name), [classes]);
  const shown = useMemo(
    () => scene.placements.filter((placement) => !hidden.has(placement.class)),
    [scene, hidden],
  );
  // What names no model lacks none: zones and the like.
  const missing = Object.entries(scene.models).filter(([name, path]) => path === null && name !== '');
  const chosenId = words.get('placement');
  const chosen = scene.placements.find(({ id }) => id === chosenId) ?? null;
  const choose = (placement: Placement | null): void => say({ placement: placement?.id });
  const saidBudget = Number(words.get('budget') ?? usualBudget);
  const budget = [0, 300_000, 1_000_000, 5_000_000].includes(saidBudget) ? saidBudget : usualBudget;
  const said = words.get('panel');
  const panel = said === 'models' || said === 'ground' ? said : 'placements';
  const ground = groundSaid(words, scene.grounds);
  const found = useGround(
    { channel: channel.id, build: asset.build },
    scene,
    ground,
    // The plan alone needs none: nothing is fetched for it.
    view !== 'plan' || panel === 'ground',
  );
  const toggle = (name: string): void => {
    const next = new Set(hidden);
    if (!next.delete(name)) next.add(name);
    say({ off: [...next].join(',') });
  };
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <Toolbar label="Map">
        {(Object.keys(views) as View[]).map((one) => (
          <Toggle
            key={one}
            isOn={view === one}
            onClick={() => say({ view: one === 'plan' ? undefined : one })}
          >
            {views[one]}
          </Toggle>
        ))}
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
          sx={{
            ...{ px: 1.5, py: 0.5, bgcolor: 'background.paper', borderBottom: 1, borderColor: 'divider' },
            ...{ maxHeight: 60, overflow: 'auto' },
          }}
        >
          {`This build lacks ${plural(missing.length, 'model')} that the map names: `}
          <span className="path">{missing.map(([model]) => model).join(', ')}</span>
        </Typography>
      )}
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: { xs: 'column', sm: 'row' } }}>
        <Box
          sx={{
            ...{ flex: { xs: '0 0 auto', sm: 1 }, height: { xs: 420, sm: 'auto' }, minWidth: 0 },
            ...{ display: 'flex', flexDirection: 'column' },
          }}
        >
          {view !== 'space' && (
            <MapPlan
              all={scene.placements}
              placements={shown}
              classes={classNames}
              selected={chosenId}
              onSelect={(id) => say({ placement: id })}
            />
          )}
          {view !== 'plan' && (
            <Box
              sx={{
                flex: 1,
                minHeight: 0,
                display: 'flex',
                borderTop: view === 'both' ? 1 : 0,
                borderColor: 'divider',
              }}
            >
              <MapSpace
                {...{ channel: channel.id, build: asset.build, scene, hidden, chosen, budget }}
                ground={found.ground}
                still={shownAddress(channel.id, asset.build, asset.path)}
                onBudget={(triangles) =>
                  say({ budget: triangles === usualBudget ? undefined : String(triangles) })
                }
                onChoose={choose}
              />
            </Box>
          )}
        </Box>
        <Box
          component="section"
          aria-label="On the map"
          sx={{
            ...{ width: { xs: 'auto', sm: 250 }, maxHeight: { xs: 340, sm: 'none' }, flexShrink: 0 },
            ...{ display: 'flex', flexDirection: 'column', minHeight: 0, bgcolor: 'background.paper' },
            ...{
              borderLeft: { sm: 1 },
              borderTop: { xs: 1, sm: 0 },
              borderColor: { xs: 'divider', sm: 'divider' },
            },
          }}
        >
          <PaneTabs
            label="On the map"
            panes={panels}
            shown={panel}
            onShow={(next) => say({ panel: next === 'placements' ? undefined : next })}
          />
          {panel === 'placements' ? (
            <PlacementsPanel {...{ scene, shown, chosen, onChoose: choose }} />
          ) : panel === 'ground' ? (
            <GroundPanel
              {...{
                channel: channel.id,
                build: asset.build,
                grounds: scene.grounds,
                said: ground,
                found,
                say,
              }}
            />
          ) : (
            <ModelsPanel
              scene={scene}
              onChoose={(model) => {
                const first = scene.placements.find((placement) => placement.model === model);
                if (first) say({ placement: first.id, panel: undefined });
              }}
            />
          )}
        </Box>
      </Box>
    </Box>
  );
}
