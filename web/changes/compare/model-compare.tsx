import { Box, Slider, Typography, useTheme } from '@mui/material';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { GLTFLoader } from 'three/examples/jsm/loaders/GLTFLoader.js';
import type { ComparedStates } from '../../../contract/assets.ts';
import { secondsText } from '../../../core/figures.ts';
import { lengthText, type LengthUnit } from '../../../core/kinds/comparing.ts';
import { colourOfDistance } from '../../../core/kinds/model/compare/distance-colour.ts';
import { sourceOf } from '../../library/assets/source-of.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { usePlace } from '../../ui/use-span.ts';
import type { ModelCanvas } from '../../viewer/engine/model-canvas.ts';
import type { CanvasReport } from '../../viewer/engine/standing-model.ts';
import { unitOfFacts } from '../../viewer/length-unit.ts';
import { Stage } from '../../viewer/stage.tsx';
import { cssOf } from '../../viewer/model/density-legend.tsx';
import { Toolbar } from '../../viewer/toolbar.tsx';
import { useModelCanvas } from '../../viewer/use-model-canvas.ts';
import type { DistanceAnswer, DistanceRequest } from './distance-worker.ts';
import { makeGhost, paint, shapeOf } from './model-shapes.ts';
import { useWay } from './use-way.ts';
import { Ways } from './ways.tsx';

const ways = [
  ['side', 'Side by side'],
  ['over', 'Over one another'],
  ['distance', 'Distance'],
] as const;

/** Two models with one camera: beside each other, over each other, or the newer one in colours of the distance. */
export default function ModelCompare({ states }: { states: ComparedStates }): ReactNode {
  const { channel } = usePlace();
  const unit = unitOfFacts(states.old.facts, states.new.facts);
  const { palette } = useTheme();
  const [way, setWay] = useWay('way', ['side', 'over', 'distance']);
  const [hasWires, setWires] = useState(false);
  const [hasBones, setBones] = useState(false);
  const left = useModelCanvas();
  const right = useModelCanvas();
  const [reports, setReports] = useState<readonly [CanvasReport, CanvasReport] | null>(null);
  const [failure, setFailure] = useState('');
  const [greatest, setGreatest] = useState<number | null>(null);
  const sources = useMemo(
    () => [sourceOf(channel.id, states.old), sourceOf(channel.id, states.new)] as const,
    [channel.id, states],
  );

  // Both are loaded anew for each way: painting takes the materials away.
  useEffect(() => {
    const [a, b] = [left.canvas, right.canvas];
    if (!a || !b) return;
    let isStale = false;
    let worker: Worker | null = null;
    setReports(null);
    setGreatest(null);
    const show = async (): Promise<void> => {
      const [old, now] = [await a.load(sources[0]), await b.load(sources[1])];
      if (isStale) return;
      setReports([old, now]);
      b.setView(a.view);
      if (way === 'over') {
        const ghost = await new GLTFLoader().loadAsync(sources[0]);
        if (isStale) return;
        makeGhost(ghost.scene, palette.statuses.removed);
        b.setGhost(ghost.scene);
      } else b.setGhost(null);
      if (way !== 'distance') return;
      worker = new Worker(new URL('./distance-worker.ts', import.meta.url), { type: 'module' });
      worker.onmessage = ({ data }: MessageEvent<DistanceAnswer>) => {
        paint(b.model, data.colours);
        setGreatest(data.greatestMetres);
        b.draw();
      };
      worker.postMessage({ old: shapeOf(a.model), now: shapeOf(b.model) } satisfies DistanceRequest);
    };
    show().catch((error: unknown) => setFailure(error instanceof Error ? error.message : String(error)));
    return () => {
      isStale = true;
      worker?.terminate();
    };
  }, [left.canvas, right.canvas, sources, way, palette]);
  useSharedView(left.canvas, right.canvas);
  useEffect(() => {
    for (const canvas of [left.canvas, right.canvas]) {
      canvas?.setWireframe(hasWires);
      canvas?.setSkeletonVisible(hasBones);
    }
  }, [left.canvas, right.canvas, hasWires, hasBones, reports]);

  const isAlone = way !== 'side';
  const message = left.failure || right.failure || failure;
  return (
    <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column', bgcolor: 'plate' }}>
      <Toolbar label="Ways of looking">
        <Ways ways={ways} chosen={way} onChoose={setWay} />
        <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5 }} />
        <Toggle isOn={hasWires} onClick={() => setWires(!hasWires)}>
          Wireframe
        </Toggle>
        {reports?.some(({ hasSkeleton }) => hasSkeleton) && (
          <Toggle isOn={hasBones} onClick={() => setBones(!hasBones)}>
            Bones
          </Toggle>
        )}
        <Box sx={{ flex: 1 }} />
        {way === 'distance' && <Legend greatest={greatest} unit={unit} />}
        {way === 'over' && (
          <Typography sx={{ alignSelf: 'center', px: 1 }}>the older one is see-through</Typography>
        )}
      </Toolbar>
      {message && <Typography role="alert" sx={{ p: 2 }}>{`It cannot be shown: ${message}`}</Typography>}
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <Box
          sx={{
            flex: isAlone ? '0 0 0px' : 1,
            minWidth: 0,
            overflow: 'hidden',
            display: 'flex',
            flexDirection: 'column',
          }}
        >
          <Typography variant="caption" sx={{ px: 1 }}>{`before, ${states.old.build}`}</Typography>
          <Stage used={left} label={`Before, ${states.old.build}`} unit={unit} />
        </Box>
        <Box
          sx={{
            flex: 1,
            minWidth: 0,
            display: 'flex',
            flexDirection: 'column',
            borderLeft: isAlone ? 0 : 1,
            borderColor: 'divider',
          }}
        >
          <Typography variant="caption" sx={{ px: 1 }}>{`after, ${states.new.build}`}</Typography>
          <Stage used={right} label={`After, ${states.new.build}`} unit={unit} />
        </Box>
      </Box>
      {reports && left.canvas && right.canvas && (
        <ClipsInStep key={way} reports={reports} canvases={[left.canvas, right.canvas]} />
      )}
    </Box>
  );
}

/** Whichever of the two is turned, the other one follows. */
function useSharedView(left: ModelCanvas | null, right: ModelCanvas | null): void {
  useEffect(() => {
    if (!left || !right) return;
    left.onView = (view) => right.setView(view);
    right.onView = (view) => left.setView(view);
    return () => {
      left.onView = right.onView = () => undefined;
    };
  }, [left, right]);
}

function Legend({ greatest, unit }: { greatest: number | null; unit: LengthUnit }): ReactNode {
  if (greatest === null)
    return (
      <Typography role="status" sx={{ alignSelf: 'center' }}>
        measuring …
      </Typography>
    );
  const steps = Array.from({ length: 12 }, (_, at) => {
    return cssOf(colourOfDistance(at, 11));
  });
  return (
    <Box
      role="img"
      aria-label={`Colours from 0 to ${lengthText(greatest, unit)} from the older surface`}
      sx={{ display: 'flex', alignItems: 'center', gap: 0.75, px: 1, fontSize: '0.85rem' }}
    >
      0
      <Box sx={{ display: 'flex', border: 1, borderColor: 'divider' }}>
        {steps.map((colour) => (
          <Box key={colour} sx={{ width: 12, height: 12, bgcolor: colour }} />
        ))}
      </Box>
      {lengthText(greatest, unit)}
    </Box>
  );
}

/** One clip of both at the same moment: played, or stopped anywhere. */
function ClipsInStep({
  reports,
  canvases,
}: {
  reports: readonly [CanvasReport, CanvasReport];
  canvases: readonly [ModelCanvas, ModelCanvas];
}): ReactNode {
  const names = useMemo(
    () => [...new Set(reports.flatMap(({ clips }) => clips.map(({ name }) => name)))],
    [reports],
  );
  const [chosen, setChosen] = useState<string | null>(null);
  const [seconds, setSeconds] = useState(0);
  const [isPlaying, setPlaying] = useState(false);
  const frame = useRef(0);
  const indexes = useMemo(
    () => reports.map(({ clips }) => clips.findIndex(({ name }) => name === chosen)),
    [reports, chosen],
  );
  const length = Math.max(0, ...reports.map(({ clips }, at) => clips[indexes[at] ?? -1]?.seconds ?? 0));
  const [first, second] = canvases;
  const stopAt = useCallback(
    (at: number): void => {
      first.stopAt(indexes[0] ?? -1, at);
      second.stopAt(indexes[1] ?? -1, at);
    },
    [first, second, indexes],
  );
  useEffect(() => stopAt(seconds), [stopAt, seconds]);
  useEffect(() => {
    if (!isPlaying || length === 0) return;
    let last = performance.now();
    const step = (now: number): void => {
      const by = Math.min(0.1, Math.max(0, (now - last) / 1000));
      last = now;
      setSeconds((before) => (before + by) % length);
      frame.current = requestAnimationFrame(step);
    };
    frame.current = requestAnimationFrame(step);
    return () => cancelAnimationFrame(frame.current);
  }, [isPlaying, length]);
  if (names.length === 0) return null;
  return (
    <Toolbar label="Clips, both in step">
      {names.map((name) => (
        <Toggle
          key={name}
          isOn={name === chosen}
          onClick={() => {
            setChosen(name === chosen ? null : name);
            setSeconds(0);
            setPlaying(false);
          }}
        >
          {name}
        </Toggle>
      ))}
      {chosen !== null && (
        <>
          <Toggle isOn={isPlaying} onClick={() => setPlaying(!isPlaying)}>
            {isPlaying ? 'Pause' : 'Play'}
          </Toggle>
          <Slider
            size="small"
            aria-label="Moment"
            min={0}
            max={length}
            step={length / 200 || 1}
            value={Math.min(seconds, length)}
            onChange={(_, value) => {
              setPlaying(false);
              setSeconds(value);
            }}
            sx={{ flex: 1, mx: 2, alignSelf: 'center', minWidth: 120 }}
          />
          <Typography
            sx={{ alignSelf: 'center', fontVariantNumeric: 'tabular-nums' }}
          >{`${secondsText(seconds)} of ${secondsText(length)}`}</Typography>
        </>
      )}
    </Toolbar>
  );
}
