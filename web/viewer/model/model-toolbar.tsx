import { Box, Button, MenuItem, Popover, Slider, TextField, Typography } from '@mui/material';
import { useState, type ReactNode } from 'react';
import { Toggle } from '../../ui/toggle.tsx';
import type { Axis, Look } from '../engine/look.ts';
import { sides, type Side } from '../engine/stage-camera.ts';
import { waysOfSeeing, type WayOfSeeing } from '../engine/ways-of-seeing.ts';
import { Toolbar } from '../toolbar.tsx';

const sideNames: Readonly<Record<Side, string>> = {
  ...{ front: 'Front', back: 'Back', left: 'Left side', right: 'Right side' },
  ...{ above: 'From above', below: 'From below' },
};
const stillSizes = [512, 1024, 2048, 4096];
const turntableSizes = [256, 512, 1024];

/** What can be done with a model as a whole, above it. */
export function ModelToolbar({
  ways,
  look,
  isParallel,
  isMeasuring,
  hasSkeleton,
  onLook,
  onSide,
  onParallel,
  onMeasure,
  onStill,
  onTurntable,
}: {
  ways: readonly WayOfSeeing[];
  look: Look;
  isParallel: boolean;
  isMeasuring: boolean;
  hasSkeleton: boolean;
  onLook: (change: Partial<Look>) => void;
  onSide: (side: Side | 'three-quarters') => void;
  onParallel: (isParallel: boolean) => void;
  onMeasure: (isMeasuring: boolean) => void;
  onStill: (pixels: number) => void;
  /** Saves the model as it turns, as an animated picture. */
  onTurntable: (pixels: number) => void;
}): ReactNode {
  return (
    <Toolbar label="Model">
      <Toggle isOn={false} onClick={() => onSide('three-quarters')}>
        Whole model
      </Toggle>
      <Choice
        label="Side"
        value=""
        placeholder="Side …"
        options={sides.map((side) => [side, sideNames[side]])}
        onChoose={(side) => onSide(side as Side)}
      />
      <Toggle isOn={isParallel} onClick={() => onParallel(!isParallel)}>
        Parallel
      </Toggle>
      <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5, alignSelf: 'stretch' }} />
      <Choice
        label="Way of seeing"
        value={look.way}
        options={ways.map((way) => [way, waysOfSeeing[way]])}
        onChoose={(way) => onLook({ way: way as WayOfSeeing })}
      />
      <Toggle isOn={look.hasWires} onClick={() => onLook({ hasWires: !look.hasWires })}>
        Wireframe
      </Toggle>
      {hasSkeleton && (
        <Toggle isOn={look.hasBones} onClick={() => onLook({ hasBones: !look.hasBones })}>
          Bones
        </Toggle>
      )}
      <Toggle isOn={look.hasBounds} onClick={() => onLook({ hasBounds: !look.hasBounds })}>
        Bounds
      </Toggle>
      <Light look={look} onLook={onLook} />
      <Section look={look} onLook={onLook} />
      <Toggle isOn={isMeasuring} onClick={() => onMeasure(!isMeasuring)}>
        Measure
      </Toggle>
      <Choice
        label="Save a picture"
        value=""
        placeholder="Picture …"
        options={[
          ...stillSizes.map((pixels) => [`still ${pixels}`, `Still, ${pixels} × ${pixels}`] as const),
          ...turntableSizes.map((pixels) => [`turning ${pixels}`, `Turning, ${pixels} × ${pixels}`] as const),
        ]}
        onChoose={(chosen) => {
          const [what, pixels] = chosen.split(' ');
          (what === 'still' ? onStill : onTurntable)(Number(pixels));
        }}
      />
    </Toolbar>
  );
}

function Choice({
  label,
  value,
  placeholder,
  options,
  onChoose,
}: {
  label: string;
  value: string;
  placeholder?: string;
  options: readonly (readonly [string, string])[];
  onChoose: (value: string) => void;
}): ReactNode {
  return (
    <TextField
      select
      variant="standard"
      size="small"
      value={value}
      onChange={({ target }) => onChoose(target.value)}
      slotProps={{
        htmlInput: { 'aria-label': label },
        select: { displayEmpty: true, disableUnderline: true },
      }}
      sx={{
        minWidth: 70,
        alignSelf: 'center',
        '& .MuiSelect-select': { py: 0.25, pl: 0.75, fontSize: '0.8125rem' },
      }}
    >
      {placeholder !== undefined && (
        <MenuItem value="" disabled>
          {placeholder}
        </MenuItem>
      )}
      {options.map(([name, text]) => (
        <MenuItem key={name} value={name}>
          {text}
        </MenuItem>
      ))}
    </TextField>
  );
}

function Light({ look, onLook }: { look: Look; onLook: (change: Partial<Look>) => void }): ReactNode {
  return (
    <Opened name="Light" isOn={look.lightDegrees !== 0 || look.exposure !== 0}>
      <Typography variant="body2">{`Turned by ${look.lightDegrees}°`}</Typography>
      <Slider
        size="small"
        aria-label="Light turned by degrees"
        min={0}
        max={360}
        step={5}
        value={look.lightDegrees}
        onChange={(_, value) => onLook({ lightDegrees: value })}
      />
      <Typography variant="body2">{`Exposure ${look.exposure > 0 ? '+' : ''}${look.exposure} EV`}</Typography>
      <Slider
        size="small"
        aria-label="Exposure"
        min={-6}
        max={6}
        step={0.5}
        value={look.exposure}
        onChange={(_, value) => onLook({ exposure: value })}
      />
      <Button size="small" onClick={() => onLook({ lightDegrees: 0, exposure: 0 })}>
        As usual
      </Button>
    </Opened>
  );
}

function Section({
  look: { section },
  onLook,
}: {
  look: Look;
  onLook: (change: Partial<Look>) => void;
}): ReactNode {
  return (
    <Opened name="Section" isOn={section !== null}>
      <Box sx={{ display: 'flex', gap: 0.5 }}>
        <Toggle isOn={section === null} onClick={() => onLook({ section: null })}>
          Whole
        </Toggle>
        {(['x', 'y', 'z'] as const).map((axis: Axis) => (
          <Toggle
            key={axis}
            isOn={section?.axis === axis}
            onClick={() => onLook({ section: { axis, share: section?.share ?? 0.5 } })}
          >
            {`Across ${axis.toUpperCase()}`}
          </Toggle>
        ))}
      </Box>
      {section && (
        <Slider
          size="small"
          aria-label="Place of the section"
          min={0}
          max={1}
          step={0.01}
          value={section.share}
          onChange={(_, share) => onLook({ section: { ...section, share } })}
        />
      )}
    </Opened>
  );
}

/** A button that opens some more. */
function Opened({ name, isOn, children }: { name: string; isOn: boolean; children: ReactNode }): ReactNode {
  const [anchor, setAnchor] = useState<HTMLElement | null>(null);
  return (
    <>
      <Box component="span" onClickCapture={({ currentTarget }) => setAnchor(currentTarget)}>
        <Toggle isOn={isOn} onClick={() => undefined}>
          {`${name} …`}
        </Toggle>
      </Box>
      <Popover
        open={anchor !== null}
        anchorEl={anchor}
        onClose={() => setAnchor(null)}
        anchorOrigin={{ vertical: 'bottom', horizontal: 'left' }}
        slotProps={{ paper: { 'aria-label': name, role: 'dialog' } }}
      >
        <Box sx={{ p: 2, width: 240, display: 'grid', gap: 0.5 }}>{children}</Box>
      </Popover>
    </>
  );
}
