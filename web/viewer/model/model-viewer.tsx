import { Box, Button, Typography, useTheme } from '@mui/material';
import { useEffect, useMemo, useState, type KeyboardEvent, type ReactNode } from 'react';
import { bytesText } from '../../../core/figures.ts';
import { lengthText, type LengthUnit } from '../../../core/kinds/comparing.ts';
import { hiddenBy, variantGroups } from '../../../core/kinds/model/parts/variant-sets.ts';
import { Failure, Loading } from '../../ui/states.tsx';
import type { Look } from '../engine/look.ts';
import type { PartEntry } from '../engine/model-parts.ts';
import type { Legend } from '../engine/ways-of-seeing.ts';
import { Stage } from '../stage.tsx';
import { useModelCanvas } from '../use-model-canvas.ts';
import { DensityLegend } from './density-legend.tsx';
import { lookChanges, lookFrom } from './look-address.ts';
import { ModelToolbar } from './model-toolbar.tsx';
import { LevelsBeside } from './levels-beside.tsx';
import { ModelPanels, PanelsToCome, panelsOf, type Panel } from './model-panels.tsx';
import type { PlaceOfModel } from './place-of-model.ts';
import { useClips } from './use-clips.ts';
import { useSetUp } from './use-set-up.ts';
import { useEye, useLoaded } from './use-viewer.ts';
import { skipToken } from '@reduxjs/toolkit/query';
import { useFittingClipsQuery } from './api.ts';
import { useTurntable } from './use-turntable.tsx';
import { useTextures } from './use-textures.ts';
import { useViewerWords } from './use-viewer-words.ts';
import { WithoutTurning } from './without-turning.tsx';
import { UvLayoutPane } from './uv-layout.tsx';
import { save } from '../../ui/save.ts';

/** On a narrow screen things lie one below the other, as high as they are. */
const ownHeight = { '@media (max-width: 599px)': { flex: '0 0 auto' } } as const;
const toldFromBytes = 1_000_000;
const noClips: readonly never[] = [];
const sameAddress = (path: string): string => path;

/** Helper shapes, and of each group of variants all but the first. */
function hiddenAtFirst(parts: readonly PartEntry[]): number[] {
  const seen = parts.filter(({ helper }) => helper === null);
  const others = variantGroups(seen).flatMap((group) => hiddenBy(group, group.variants[0]?.name ?? ''));
  return [...parts.flatMap(({ id, helper }) => (helper ? [id] : [])), ...others];
}

/** A model that can be turned, with its parts, its skeleton and its clips. */
export default function ModelViewer({
  source,
  unpacked,
  name,
  unit,
  isInAddress = false,
  place,
}: {
  source: string;
  /** The same without anything that takes a decoder, for what cannot be loaded as it is. */
  unpacked: string;
  name: string;
  /** What lengths are told in. */
  unit: LengthUnit;
  /** Whether the page’s address says how it is looked at. */
  isInAddress?: boolean;
  /** Where it is, where what lies beside it is wanted, too. */
  place?: PlaceOfModel;
}): ReactNode {
  const { palette } = useTheme();
  const used = useModelCanvas({ ink: palette.text.primary, accent: palette.primary.main });
  const { canvas } = used;
  const [words, say] = useViewerWords(isInAddress);
  const level = place?.levels.find(({ path }) => path === words.get('level')) ?? null;
  const isOther = place !== undefined && level !== null && level.path !== place.path;
  const { report, failure, progress, stop } = useLoaded(
    used.canvas,
    isOther ? place.addressOf(level.path) : source,
    isOther ? place.addressOf(level.path) : unpacked,
  );
  const isSideBySide = words.get('levels') === 'beside' && (place?.levels.length ?? 0) > 1;
  const setUp = useSetUp(canvas, report, [words, say], place);
  // Levels of one thing wear the same.
  const textures = useTextures(canvas, report, [words, say], place);
  // Helper shapes are hidden at first, of variants all but the first, and what is left out is not there.
  const hidden = useMemo(() => [...hiddenAtFirst(report?.parts ?? []), ...setUp.out], [report, setUp.out]);
  const look = lookFrom(words, hidden);
  const lookKey = JSON.stringify({ ...look, hidden: [...look.hidden] });
  const [legend, setLegend] = useState<Legend | null>(null);
  const [isMeasuring, setMeasuring] = useState(false);
  const [metres, setMetres] = useState<number | null>(null);
  useEffect(() => {
    if (canvas && report) setLegend(canvas.setLook(look));
    // The key says all that the look has.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [canvas, report, lookKey]);
  const eye = useEye(canvas, report !== null, words, say);
  const { channel, build, path } = place ?? { channel: 0, build: '', path: '' };
  const { data: fitting, isFetching } = useFittingClipsQuery(
    place && report && report.bones.length > 0 ? { channel, build, path } : skipToken,
  );
  const clips = useClips(
    { canvas, report, words, say },
    fitting?.clips ?? noClips,
    setUp.setUp.layers,
    place?.addressOf ?? sameAddress,
  );

  const turntable = useTurntable(canvas, name);
  const onLook = (change: Partial<Look>): void => say(lookChanges(change));
  useEffect(() => {
    if (!canvas) return;
    canvas.onPart = (part) => say(lookChanges({ part }));
    canvas.onMeasure = setMetres;
    canvas.isMeasuring = isMeasuring;
    if (!isMeasuring) canvas.clearMeasured();
  }, [canvas, say, isMeasuring]);

  if (used.failure !== '' && place?.still)
    return (
      <WithoutTurning
        reason={used.failure}
        still={place.still}
        {...{ name, levels: place.levels, linkTo: place.linkTo }}
      />
    );
  if (failure || used.failure) return <Failure text={failure || used.failure} />;
  const laidOut = report?.materials.find(({ name: one }) => one === words.get('uv')) ?? null;
  const panels = panelsOf(report, clips.choices.length, place);
  const asked = words.get('panel') as Panel | 'none' | null;
  // A model of one part and nothing else has nothing to choose from; among other things there is little room.
  const isRich = panels.length > 2 || (report?.parts.length ?? 0) > 1;
  const usual = isInAddress && isRich ? (panels[0] ?? null) : null;
  const panel = asked === 'none' ? null : (panels.find((one) => one === asked) ?? usual);
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.key === '[' || event.key === ']') {
      clips.step(event.key === '[' ? -1 : 1);
      event.preventDefault();
    }
  };
  return (
    <Box onKeyDown={onKeyDown} sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <ModelToolbar
        ways={report ? textures.ways : ['textured']}
        hasSkeleton={report?.hasSkeleton ?? false}
        {...{ look, onLook, isMeasuring }}
        isParallel={eye.isParallel}
        onSide={(side) => canvas?.lookAtAll(side)}
        onParallel={eye.setParallel}
        onMeasure={(isOn) => {
          setMeasuring(isOn);
          setMetres(null);
        }}
        onStill={(pixels) =>
          void canvas?.still(pixels, pixels).then((blob) => blob && save(blob, `${name}.png`))
        }
        onTurntable={turntable.start}
      />
      <Box
        sx={{
          ...{ flex: 1, display: 'flex', minHeight: 0, position: 'relative' },
          flexDirection: { xs: 'column', sm: 'row' },
          ...ownHeight,
        }}
      >
        <Box
          sx={{
            ...{ flex: { xs: '0 0 auto', sm: 1 }, height: { xs: 340, sm: 'auto' } },
            ...{ minWidth: 0, minHeight: 220, display: 'flex', position: 'relative' },
          }}
        >
          {isSideBySide && place && (
            <Box sx={{ position: 'absolute', inset: 0, zIndex: 1, display: 'flex', overflow: 'auto' }}>
              <LevelsBeside levels={place.levels} addressOf={place.addressOf} {...{ unit, look }} />
            </Box>
          )}
          {laidOut && canvas && (
            <UvLayoutPane
              {...{ canvas, parts: laidOut.parts, name: laidOut.name }}
              onClose={() => say({ uv: undefined })}
            />
          )}
          <Stage used={used} label={`Model ${name}`} unit={unit} />
          {!report && (
            <Box
              sx={{
                position: 'absolute',
                inset: 0,
                display: 'grid',
                placeItems: 'center',
                pointerEvents: 'none',
              }}
            >
              <Box sx={{ textAlign: 'center', pointerEvents: 'auto' }}>
                <Loading what={name} />
                {progress && progress.bytes > toldFromBytes && (
                  <Typography variant="body2" role="status">
                    {`${bytesText(progress.bytes)}${progress.total === null ? '' : ` of ${bytesText(progress.total)}`} `}
                    <Button size="small" onClick={stop}>
                      Stop
                    </Button>
                  </Typography>
                )}
              </Box>
            </Box>
          )}
          {turntable.note}
          {legend && <DensityLegend legend={legend} />}
          {isMeasuring && (
            <Typography
              role="status"
              sx={{ position: 'absolute', left: 16, top: 12, bgcolor: 'background.paper', px: 1 }}
            >
              {metres === null ? 'Point at two places.' : `${lengthText(metres, unit)} from one to the other`}
            </Typography>
          )}
        </Box>
        {!report && isInAddress && place && asked !== 'none' && <PanelsToCome />}
        {report && panels.length > 0 && (
          <ModelPanels
            {...{ panels, panel, report, look, clips, textures, setUp, place, onLook, isSideBySide }}
            fitting={{ isLooking: isFetching, isCut: fitting?.isCut ?? false }}
            levelShown={level?.path ?? path}
            onPanel={(next) => say({ panel: next })}
            onLayout={(material) => say({ uv: material })}
            onFit={(part) => canvas?.lookAtPart(part)}
            onLevel={(next) =>
              say({ level: next === path ? undefined : next, part: undefined, hide: undefined })
            }
            onSideBySide={(isOn) => say({ levels: isOn ? 'beside' : undefined })}
          />
        )}
      </Box>
    </Box>
  );
}
