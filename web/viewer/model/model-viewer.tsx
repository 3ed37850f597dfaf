import { Box, Button, Typography, useTheme } from '@mui/material';
import { useEffect, useMemo, useState, type KeyboardEvent, type ReactNode } from 'react';
import { bytesText } from '../../../core/figures.ts';
import { lengthText, type LengthUnit } from '../../../core/kinds/comparing.ts';
import { PaneTabs } from '../../ui/pane-tabs.tsx';
import { Failure, Loading } from '../../ui/states.tsx';
import type { Look } from '../engine/look.ts';
import type { Legend } from '../engine/ways-of-seeing.ts';
import { Stage } from '../stage.tsx';
import { useModelCanvas } from '../use-model-canvas.ts';
import { BonesPanel } from './bones-panel.tsx';
import { ClipsPanel } from './clips-panel.tsx';
import { DensityLegend } from './density-legend.tsx';
import { lookChanges, lookFrom } from './look-address.ts';
import { ModelToolbar } from './model-toolbar.tsx';
import { PartsPanel } from './parts-panel.tsx';
import { useClips, useEye, useLoaded } from './use-viewer.ts';
import { useViewerWords } from './use-viewer-words.ts';

/** Names of what a viewer shows beside the model. */
type Panel = 'parts' | 'bones' | 'clips';
const panelNames: Readonly<Record<Panel, string>> = { parts: 'Parts', bones: 'Bones', clips: 'Clips' };
/** On a narrow screen things lie one below the other, as high as they are. */
const ownHeight = { '@media (max-width: 599px)': { flex: '0 0 auto' } } as const;
const toldFromBytes = 1_000_000;

/** A model that can be turned, with its parts, its skeleton and its clips. */
export default function ModelViewer({
  source,
  unpacked,
  name,
  unit,
  isInAddress = false,
}: {
  source: string;
  /** The same without anything that takes a decoder, for what cannot be loaded as it is. */
  unpacked: string;
  name: string;
  /** What lengths are told in. */
  unit: LengthUnit;
  /** Whether the page’s address says how it is looked at. */
  isInAddress?: boolean;
}): ReactNode {
  const { palette } = useTheme();
  const used = useModelCanvas({ ink: palette.text.primary, accent: palette.primary.main });
  const { canvas } = used;
  const [words, say] = useViewerWords(isInAddress);
  const { report, failure, progress, stop } = useLoaded(used.canvas, source, unpacked);
  const helpers = useMemo(
    () => (report?.parts ?? []).flatMap(({ id, helper }) => (helper ? [id] : [])),
    [report],
  );
  const look = lookFrom(words, helpers);
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
  const clips = useClips(canvas, report, words, say);

  const onLook = (change: Partial<Look>): void => say(lookChanges(change));
  useEffect(() => {
    if (!canvas) return;
    canvas.onPart = (part) => say(lookChanges({ part }));
    canvas.onMeasure = setMetres;
    canvas.isMeasuring = isMeasuring;
    if (!isMeasuring) canvas.clearMeasured();
  }, [canvas, say, isMeasuring]);

  if (failure || used.failure) return <Failure text={failure || used.failure} />;
  const panels = (['parts', 'bones', 'clips'] as const).filter(
    (panel) =>
      (panel === 'parts' && (report?.parts.length ?? 0) > 0) ||
      (panel === 'bones' && report?.hasSkeleton) ||
      (panel === 'clips' && (report?.clips.length ?? 0) > 0),
  );
  const asked = words.get('panel') as Panel | 'none' | null;
  // A model of one part and nothing else has nothing to choose from; among other things there is little room.
  const isRich = panels.length > 1 || (report?.parts.length ?? 0) > 1;
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
        ways={report?.ways ?? ['textured']}
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
        {report && panels.length > 0 && (
          <Box
            component="section"
            aria-label="Of the model"
            sx={{
              ...{ width: { xs: 'auto', sm: panel ? 236 : 'auto' }, maxHeight: { xs: 320, sm: 'none' } },
              ...{ flexShrink: 0, display: 'flex', flexDirection: 'column', minHeight: 0 },
              ...{ bgcolor: 'background.paper', borderLeft: { sm: 1 }, borderTop: { xs: 1, sm: 0 } },
              borderColor: { xs: 'divider', sm: 'divider' },
            }}
          >
            {panel ? (
              <>
                <Box sx={{ display: 'flex', alignItems: 'stretch' }}>
                  <Box sx={{ flex: 1 }}>
                    <PaneTabs
                      label="Of the model"
                      panes={
                        Object.fromEntries(panels.map((one) => [one, panelNames[one]])) as Record<
                          Panel,
                          string
                        >
                      }
                      shown={panel}
                      onShow={(next) => say({ panel: next })}
                    />
                  </Box>
                  <Button
                    aria-label="Close the panel"
                    sx={{ minWidth: 30 }}
                    onClick={() => say({ panel: 'none' })}
                  >
                    ×
                  </Button>
                </Box>
                {panel === 'parts' && (
                  <PartsPanel
                    parts={report.parts}
                    {...{ look, onLook }}
                    onFit={(part) => canvas?.lookAtPart(part)}
                  />
                )}
                {panel === 'bones' && <BonesPanel bones={report.bones} {...{ look, onLook }} />}
                {panel === 'clips' && (
                  <ClipsPanel
                    clips={report.clips}
                    playing={clips.playing}
                    onMoments={clips.onMoments}
                    onPlay={clips.play}
                    onSeek={clips.seek}
                  />
                )}
              </>
            ) : (
              panels.map((one) => (
                <Button key={one} onClick={() => say({ panel: one })}>
                  {panelNames[one]}
                </Button>
              ))
            )}
          </Box>
        )}
      </Box>
    </Box>
  );
}

function save(blob: Blob, name: string): void {
  const address = URL.createObjectURL(blob);
  const link = document.createElement('a');
  Object.assign(link, { href: address, download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(address), 10_000);
}
