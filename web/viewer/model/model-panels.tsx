import { Box, Button } from '@mui/material';
import { useMemo, type ReactNode } from 'react';
import { PaneTabs } from '../../ui/pane-tabs.tsx';
import type { Look } from '../engine/look.ts';
import type { CanvasReport } from '../engine/standing-model.ts';
import { ArrangementsList } from './arrangements-list.tsx';
import { BonesPanel } from './bones-panel.tsx';
import { ClipsPanel } from './clips-panel.tsx';
import { LayersList } from './layers-list.tsx';
import { LevelsPanel } from './levels-panel.tsx';
import { MaterialsPanel } from './materials-panel.tsx';
import { PartsPanel } from './parts-panel.tsx';
import type { PlaceOfModel } from './place-of-model.ts';
import { PropsList } from './props-list.tsx';
import type { useClips } from './use-clips.ts';
import type { useSetUp } from './use-set-up.ts';
import type { useTextures } from './use-textures.ts';

/** What a viewer shows beside the model. */
export type Panel = 'parts' | 'materials' | 'bones' | 'clips' | 'levels' | 'setup';
const panelNames: Readonly<Record<Panel, string>> = {
  ...{ parts: 'Parts', materials: 'Materials', bones: 'Bones', clips: 'Clips', levels: 'Levels' },
  setup: 'Set-up',
};

/** Panels that have something to show. */
export function panelsOf(
  report: CanvasReport | null,
  clips: number,
  place: PlaceOfModel | undefined,
): Panel[] {
  if (!report) return [];
  const { parts, materials, hasSkeleton } = report;
  return [
    ...(parts.length > 0 ? (['parts'] as const) : []),
    ...(materials.length > 0 ? (['materials'] as const) : []),
    ...(hasSkeleton ? (['bones'] as const) : []),
    ...(clips > 0 ? (['clips'] as const) : []),
    ...((place?.levels.length ?? 0) > 1 ? (['levels'] as const) : []),
    ...(place && parts.length > 0 ? (['setup'] as const) : []),
  ];
}

const panelWidth = 268;

/** Room for the panel while the model is loaded, so that the canvas need not be drawn in another size after that. */
export function PanelsToCome(): ReactNode {
  return <Box sx={{ width: panelWidth, flexShrink: 0, display: { xs: 'none', sm: 'block' } }} />;
}

export function ModelPanels({
  panels,
  panel,
  report,
  look,
  clips,
  fitting,
  textures,
  setUp,
  place,
  levelShown,
  isSideBySide,
  onPanel,
  onLook,
  onFit,
  onLevel,
  onLayout,
  onSideBySide,
}: {
  panels: readonly Panel[];
  panel: Panel | null;
  report: CanvasReport;
  look: Look;
  clips: ReturnType<typeof useClips>;
  fitting: { isLooking: boolean; isCut: boolean };
  textures: ReturnType<typeof useTextures>;
  setUp: ReturnType<typeof useSetUp>;
  place: PlaceOfModel | undefined;
  levelShown: string;
  isSideBySide: boolean;
  onPanel: (panel: Panel | 'none') => void;
  onLook: (change: Partial<Look>) => void;
  onFit: (part: number) => void;
  onLevel: (path: string) => void;
  /** Shows how the parts of a material are laid out on their pictures. */
  onLayout: (material: string) => void;
  onSideBySide: (isOn: boolean) => void;
}): ReactNode {
  const holders = useMemo(
    () => [...new Set([...report.bones.map(({ name }) => name), ...report.locators])],
    [report],
  );
  return (
    <Box
      component="section"
      aria-label="Of the model"
      sx={{
        ...{ width: { xs: 'auto', sm: panel ? panelWidth : 'auto' }, maxHeight: { xs: 360, sm: 'none' } },
        ...{ flexShrink: 0, display: 'flex', flexDirection: 'column', minHeight: 0 },
        ...{ bgcolor: 'background.paper', borderLeft: { sm: 1 }, borderTop: { xs: 1, sm: 0 } },
        borderColor: { xs: 'divider', sm: 'divider' },
        '& [role=tab]': { px: 1 },
      }}
    >
      {!panel &&
        panels.map((one) => (
          <Button key={one} onClick={() => onPanel(one)}>
            {panelNames[one]}
          </Button>
        ))}
      {panel && (
        <Box sx={{ display: 'flex', alignItems: 'stretch' }}>
          <Box sx={{ flex: 1 }}>
            <PaneTabs
              label="Of the model"
              panes={Object.fromEntries(panels.map((one) => [one, panelNames[one]]))}
              shown={panel}
              onShow={onPanel}
            />
          </Box>
          <Button aria-label="Close the panel" sx={{ minWidth: 24, px: 0.5 }} onClick={() => onPanel('none')}>
            ×
          </Button>
        </Box>
      )}
      {panel === 'parts' && (
        <PartsPanel
          parts={report.parts}
          {...{ look, onLook, onFit }}
          setUp={setUp.setUp}
          onSetUp={place ? setUp.change : null}
        />
      )}
      {panel === 'materials' && (
        <MaterialsPanel
          {...{ textures, place, onLayout }}
          fileVariants={report.fileVariants}
          chosenPart={look.part}
          onPart={(part) => onLook({ part })}
        />
      )}
      {panel === 'bones' && <BonesPanel bones={report.bones} {...{ look, onLook }} />}
      {panel === 'clips' && <ClipsPanel clips={clips} {...fitting} />}
      {panel === 'levels' && place && (
        <LevelsPanel
          levels={place.levels}
          shown={levelShown}
          onShow={onLevel}
          {...{ isSideBySide, onSideBySide }}
        />
      )}
      {panel === 'setup' && place && (
        <Box
          sx={{
            p: 1,
            overflow: 'auto',
            flex: 1,
            minHeight: 0,
            display: 'grid',
            gap: 2,
            alignContent: 'start',
          }}
        >
          <LayersList
            layers={setUp.setUp.layers}
            {...{ choices: clips.choices, ready: clips.ready, bones: report.bones }}
            onChange={(layers) => setUp.change({ layers })}
          />
          <PropsList
            props={setUp.setUp.props}
            {...{ holders, outcomes: setUp.outcomes, channel: place.channel, build: place.build }}
            onChange={(props) => setUp.change({ props })}
          />
          <ArrangementsList
            {...{ channel: place.channel, path: place.path, setUp: setUp.setUp }}
            {...{ isEmpty: setUp.isEmpty, chosen: setUp.chosen, onChoose: setUp.choose }}
          />
        </Box>
      )}
    </Box>
  );
}
