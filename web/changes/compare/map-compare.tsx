import { Box, Typography, useTheme } from '@mui/material';
import { useEffect, useMemo, useState, type ReactNode } from 'react';
import { Group, Vector3, BufferGeometry, Line, LineBasicMaterial } from 'three';
import type { ComparedStates, MapScene } from '../../../contract/assets.ts';
import type { PlacementChange } from '../../../contract/comparisons.ts';
import type { Placement } from '../../../contract/facts.ts';
import { grouped } from '../../../core/grouped.ts';
import { lengthText } from '../../../core/kinds/comparing.ts';
import { shownAddress } from '../../viewer/asset-addresses.ts';
import { useSceneQuery } from '../../viewer/assets-api.ts';
import { failureText } from '../../ui/api.ts';
import { Empty, Failure, Loading } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace } from '../../ui/use-span.ts';
import { boxes } from '../../viewer/map/map-scene.ts';
import { Stage } from '../../viewer/stage.tsx';
import { Toolbar } from '../../viewer/toolbar.tsx';
import { useModelCanvas } from '../../viewer/use-model-canvas.ts';
import { ChangesPlan } from './changes-plan.tsx';
import { useWay } from './use-way.ts';
import { Ways } from './ways.tsx';

const ways = [
  ['plan', 'Plan'],
  ['list', 'List'],
  ['space', '3D'],
] as const;
const statuses = ['added', 'gone', 'moved', 'turned', 'scaled', 'swapped', 'changed'] as const;

/** What was placed, taken away and moved: from above, as a list, and in 3D. */
export default function MapCompare({ states }: { states: ComparedStates }): ReactNode {
  const { channel } = usePlace();
  const isTiles = [states.old, states.new].some(({ facts }) => facts?.kind === 'map' && facts.tiles !== null);
  const where = ({ build, path }: { build: string; path: string }) => ({ channel: channel.id, build, path });
  const scene = useSceneQuery(where(states.new), { skip: isTiles });
  if (isTiles) return <Tiles states={states} />;
  if (scene.error) return <Failure text={failureText(scene.error)} />;
  if (!scene.data) return <Loading what="the placements" />;
  const detail = states.comparison?.detail;
  if (detail?.kind !== 'map') return <Empty title="They were not compared">{states.reason ?? ''}</Empty>;
  return <Loaded scene={scene.data} changes={detail.changes} total={detail.total} />;
}

function Tiles({ states }: { states: ComparedStates }): ReactNode {
  const { channel } = usePlace();
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', bgcolor: 'plate' }}>
      {[states.old, states.new].map((asset, at) => (
        <Box
          key={at}
          sx={{
            flex: 1,
            minWidth: 0,
            display: 'flex',
            flexDirection: 'column',
            borderLeft: at,
            borderColor: 'divider',
          }}
        >
          <Typography
            variant="caption"
            sx={{ px: 1 }}
          >{`${at === 0 ? 'before' : 'after'}, ${asset.build}`}</Typography>
          <Box
            sx={{
              flex: 1,
              minHeight: 0,
              p: 1,
              display: 'flex',
              alignItems: 'center',
              justifyContent: 'center',
            }}
          >
            <Box
              component="img"
              alt={`${at === 0 ? 'before' : 'after'}`}
              src={shownAddress(channel.id, asset.build, asset.path)}
              sx={{ maxWidth: '100%', maxHeight: '100%', imageRendering: 'pixelated' }}
            />
          </Box>
        </Box>
      ))}
    </Box>
  );
}

function Loaded({
  scene,
  changes,
  total,
}: {
  scene: MapScene;
  changes: readonly PlacementChange[];
  total: number;
}): ReactNode {
  const [way, setWay] = useWay('way', ['plan', 'list', 'space']);
  const [hidden, setHidden] = useState<ReadonlySet<string>>(new Set());
  const [selected, setSelected] = useState<PlacementChange | null>(null);
  const shown = useMemo(() => changes.filter(({ status }) => !hidden.has(status)), [changes, hidden]);
  const counts = useMemo(() => grouped(changes, ({ status }) => status), [changes]);
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
      <Toolbar label="Ways of looking">
        <Ways ways={ways} chosen={way} onChoose={setWay} />
        <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5 }} />
        {statuses
          .filter((status) => counts.has(status))
          .map((status) => (
            <Toggle
              key={status}
              isOn={!hidden.has(status)}
              onClick={() => {
                const next = new Set(hidden);
                if (!next.delete(status)) next.add(status);
                setHidden(next);
              }}
            >
              {`${signOf[status]} ${status} ${counts.get(status)?.length.toLocaleString('en') ?? ''}`}
            </Toggle>
          ))}
      </Toolbar>
      {total > changes.length && (
        <Typography
          sx={{ px: 2 }}
        >{`The first ${changes.length.toLocaleString('en')} of ${total.toLocaleString('en')} changes are shown.`}</Typography>
      )}
      {way === 'plan' && (
        <ChangesPlan
          placements={scene.placements}
          changes={shown}
          selected={selected}
          onSelect={setSelected}
        />
      )}
      {way === 'list' && <ChangesList changes={shown} selected={selected} onSelect={setSelected} />}
      {way === 'space' && <ChangesInSpace placements={scene.placements} changes={shown} />}
      {selected && way === 'plan' && (
        <Typography sx={{ px: 2, py: 0.75, borderTop: 1, borderColor: 'divider' }}>
          {describeChange(selected)}
        </Typography>
      )}
    </Box>
  );
}

const signOf: Record<PlacementChange['status'], string> = {
  added: '+',
  gone: '−',
  moved: '→',
  turned: '↻',
  scaled: '↕',
  swapped: '⇄',
  changed: '≠',
};

function describeChange({
  status,
  id,
  model,
  oldModel,
  class: name,
  metres,
  degrees,
  scale,
  position,
}: PlacementChange): string {
  const how = [
    status === 'swapped' ? `${oldModel} → ${model}` : model,
    metres > 0.001 ? `moved by ${lengthText(metres)}` : '',
    degrees > 0.05 ? `turned by ${degrees.toFixed(1)}°` : '',
    Math.abs(scale - 1) > 0.001 ? `${Number(scale.toPrecision(3))} times as large` : '',
    `at ${position.map((value) => value.toFixed(2)).join(', ')} m`,
  ];
  return `${status} ${id} (${name}): ${how.filter(Boolean).join(', ')}`;
}

function ChangesList({
  changes,
  selected,
  onSelect,
}: {
  changes: readonly PlacementChange[];
  selected: PlacementChange | null;
  onSelect: (change: PlacementChange) => void;
}): ReactNode {
  return (
    <Box
      tabIndex={0}
      role="region"
      aria-label="Changes"
      sx={{ flex: 1, minHeight: 0, overflow: 'auto', p: 2 }}
    >
      <Box component="ul" sx={{ listStyle: 'none', m: 0, p: 0, fontSize: '0.88rem' }}>
        {changes.map((change, at) => (
          <Box
            component="li"
            key={at}
            onClick={() => onSelect(change)}
            sx={{
              borderBottom: 1,
              borderColor: 'divider',
              py: 0.3,
              bgcolor: change === selected ? 'plate' : 'transparent',
              overflowWrap: 'anywhere',
            }}
          >
            {`${signOf[change.status]} ${describeChange(change)}`}
          </Box>
        ))}
      </Box>
    </Box>
  );
}

/** Boxes where things stand: pale what stayed, in colours what came and went, a line along the way that something moved. */
function ChangesInSpace({
  placements,
  changes,
}: {
  placements: readonly Placement[];
  changes: readonly PlacementChange[];
}): ReactNode {
  const used = useModelCanvas();
  const { palette } = useTheme();
  const { canvas } = used;
  useEffect(() => {
    if (!canvas) return;
    const scene = new Group();
    const touched = new Set(changes.map(({ id }) => id));
    const at = (change: PlacementChange, position: PlacementChange['position']): Placement => ({
      id: change.id,
      model: change.model,
      class: change.class,
      position,
      rotation: [0, 0, 0, 1],
      scale: [1, 1, 1],
      name: '',
      locator: '',
    });
    const still = placements.filter(({ id }) => !touched.has(id));
    if (still.length > 0) scene.add(boxes(still, palette.text.secondary));
    for (const [status, list] of grouped(changes, (change) => change.status)) {
      const colour =
        status === 'added'
          ? palette.statuses.added
          : status === 'gone'
            ? palette.statuses.removed
            : palette.primary.main;
      scene.add(
        boxes(
          list.map((change) => at(change, change.position)),
          colour,
        ),
      );
    }
    for (const { status, position, oldPosition } of changes) {
      if (status !== 'moved') continue;
      const way = new BufferGeometry().setFromPoints([new Vector3(...oldPosition), new Vector3(...position)]);
      scene.add(new Line(way, new LineBasicMaterial({ color: palette.primary.main })));
    }
    canvas.show(scene);
  }, [canvas, placements, changes, palette]);
  return used.failure ? (
    <Empty title="This browser cannot draw in 3D">{used.failure}</Empty>
  ) : (
    <Stage used={used} label="Changes in 3D" />
  );
}
