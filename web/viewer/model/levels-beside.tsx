import { Box, Typography, useTheme } from '@mui/material';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import { Box3 } from 'three';
import { levelLoss, type LevelShape } from '../../../core/kinds/model/levels/level-loss.ts';
import { plural } from '../../../core/figures.ts';
import type { LengthUnit } from '../../../core/kinds/comparing.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import type { Look } from '../engine/look.ts';
import type { ModelCanvas } from '../engine/model-canvas.ts';
import type { CanvasReport } from '../engine/standing-model.ts';
import { Stage } from '../stage.tsx';
import { useModelCanvas } from '../use-model-canvas.ts';
import type { Level } from './levels.ts';

/** A browser gives few contexts for drawing to a page. */
const mostBeside = 8;
const namesTold = 4;

interface Standing {
  canvas: ModelCanvas;
  report: CanvasReport;
}

/** Levels of detail beside each other under one camera, each with what it lost against the one above. */
export function LevelsBeside({
  levels,
  addressOf,
  unit,
  look,
}: {
  levels: readonly Level[];
  addressOf: (path: string) => string;
  unit: LengthUnit;
  /** How they are looked at: parts are those of each. */
  look: Look;
}): ReactNode {
  const shown = levels.slice(0, mostBeside);
  const [standing, setStanding] = useState<ReadonlyMap<string, Standing>>(new Map());
  const known = useRef(standing);
  useEffect(() => {
    known.current = standing;
  }, [standing]);
  const onStand = useCallback((path: string, one: Standing): void => {
    // Whoever moves one camera moves all of them.
    one.canvas.onView = (view) => {
      for (const { canvas } of known.current.values()) if (canvas !== one.canvas) canvas.setView(view);
    };
    setStanding((before) => new Map([...before, [path, one]]));
  }, []);
  const areAll = standing.size === shown.length;
  const shapes = useMemo(() => {
    if (!areAll) return null;
    const around = [...standing.values()].reduce((box, { canvas }) => box.union(canvas.bounds), new Box3());
    return new Map(
      [...standing].map(([path, { canvas, report }]): [string, LevelShape] => {
        const seen = report.parts.filter(({ helper }) => helper === null);
        return [
          path,
          {
            triangles: seen.reduce((sum, { triangles }) => sum + triangles, 0),
            parts: seen.map(({ name }) => name),
            bones: report.bones.map(({ name }) => name),
            silhouettes: canvas.silhouettes(around),
          },
        ];
      }),
    );
  }, [areAll, standing]);
  useEffect(() => {
    // All from where the finest is looked at.
    const [first] = shown;
    const view = first && standing.get(first.path)?.canvas.view;
    if (areAll && view) for (const { canvas } of standing.values()) canvas.setView(view);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [areAll]);
  return (
    <Box
      sx={{
        ...{ flex: 1, minWidth: 0, display: 'grid', gap: 0.5, bgcolor: 'background.default' },
        gridTemplateColumns: `repeat(auto-fit, minmax(180px, 1fr))`,
      }}
    >
      {shown.map((one, at) => (
        <OneLevel
          key={one.path}
          {...{ unit, look, onStand }}
          level={one}
          address={addressOf(one.path)}
          loss={lossText(shapes, shown[at - 1], one)}
        />
      ))}
    </Box>
  );
}

function lossText(
  shapes: ReadonlyMap<string, LevelShape> | null,
  above: Level | undefined,
  level: Level,
): string {
  const [over, here] = [above && shapes?.get(above.path), shapes?.get(level.path)];
  if (!here) return '';
  if (!over) return plural(here.triangles, 'triangle');
  const { triangles, trianglePercent, parts, bones, silhouettePercent } = levelLoss(over, here);
  const named = (names: readonly string[], word: string): string =>
    names.length === 0
      ? ''
      : `${plural(names.length, word)} fewer: ${names.slice(0, namesTold).join(', ')}${names.length > namesTold ? ' …' : ''}`;
  return [
    `${plural(here.triangles, 'triangle')}, ${triangles >= 0 ? `${Math.round(trianglePercent)} % fewer` : `${Math.round(-trianglePercent)} % more`} than above`,
    named(parts, 'part'),
    named(bones, 'bone'),
    Number.isNaN(silhouettePercent) ? '' : `outline ${percentText(silhouettePercent)} another one`,
  ]
    .filter(Boolean)
    .join('; ');
}

function percentText(percent: number): string {
  return percent > 0 && percent < 0.1 ? 'less than 0.1 %' : `${percent.toFixed(1)} %`;
}

function OneLevel({
  level,
  address,
  loss,
  unit,
  look,
  onStand,
}: {
  level: Level;
  address: string;
  loss: string;
  unit: LengthUnit;
  look: Look;
  onStand: (path: string, standing: Standing) => void;
}): ReactNode {
  const { palette } = useTheme();
  const used = useModelCanvas({ ink: palette.text.primary, accent: palette.primary.main });
  const { canvas } = used;
  const [report, setReport] = useState<CanvasReport | null>(null);
  const [failure, setFailure] = useState('');
  const { path } = level;
  useEffect(() => {
    if (!canvas) return;
    const controller = new AbortController();
    canvas.load(address, { signal: controller.signal }).then(
      (loaded) => {
        if (controller.signal.aborted) return;
        setReport(loaded);
        onStand(path, { canvas, report: loaded });
      },
      (error: unknown) => {
        if (!controller.signal.aborted) setFailure(error instanceof Error ? error.message : String(error));
      },
    );
    return () => controller.abort();
  }, [canvas, address, path, onStand]);
  const { way, hasWires, hasBones, lightDegrees, exposure } = look;
  useEffect(() => {
    if (!canvas || !report) return;
    const hidden = new Set(report.parts.flatMap(({ id, helper }) => (helper ? [id] : [])));
    canvas.setLook({
      ...{ way, hasWires, hasBones, lightDegrees, exposure, hidden },
      ...{ bone: null, part: null, hasBounds: false, section: null },
    });
  }, [canvas, report, way, hasWires, hasBones, lightDegrees, exposure]);
  return (
    <Box
      role="group"
      aria-label={`Level ${level.level}`}
      sx={{ display: 'flex', flexDirection: 'column', bgcolor: 'plate', minHeight: 200, minWidth: 0 }}
    >
      {failure || used.failure ? (
        <Failure text={failure || used.failure} />
      ) : (
        <Stage used={used} label={`Level ${level.level}`} unit={unit} />
      )}
      <Box sx={{ bgcolor: 'background.paper', px: 1, py: 0.5 }}>
        <Typography variant="body2" title={path}>
          <b>{`Level ${level.level}`}</b>
          {report ? ` ${loss === '' ? plural(level.triangles ?? 0, 'triangle') : loss}` : ''}
        </Typography>
        {!report && failure === '' && <Loading what="this level" />}
      </Box>
    </Box>
  );
}
