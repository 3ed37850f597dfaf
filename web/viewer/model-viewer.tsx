import { Box, Checkbox, FormControlLabel, Typography } from '@mui/material';
import { useEffect, useState, type ReactNode } from 'react';
import type { LengthUnit } from '../../core/kinds/comparing.ts';
import { secondsText } from '../../core/figures.ts';
import { Toggle } from '../ui/toggle.tsx';
import { Failure, Loading } from '../ui/states.tsx';
import type { CanvasReport } from './model-canvas.ts';
import { Stage } from './stage.tsx';
import { Toolbar } from './toolbar.tsx';
import { useModelCanvas } from './use-model-canvas.ts';

/** A model that can be turned, with its parts, its skeleton and its clips. */
export default function ModelViewer({
  source,
  unpacked,
  name,
  unit,
}: {
  source: string;
  /** The same without anything that takes a decoder, for what cannot be loaded as it is. */
  unpacked: string;
  name: string;
  /** What lengths are told in. */
  unit: LengthUnit;
}): ReactNode {
  const used = useModelCanvas();
  const { canvas } = used;
  const [report, setReport] = useState<CanvasReport | null>(null);
  const [failure, setFailure] = useState('');
  const [isWireframe, setWireframe] = useState(false);
  const [hasBones, setBones] = useState(false);
  const [clip, setClip] = useState(-1);
  useEffect(() => {
    if (!canvas) return;
    let isCurrent = true;
    const loading =
      unpacked === source ? canvas.load(source) : canvas.load(source).catch(() => canvas.load(unpacked));
    loading.then(
      (loaded) => isCurrent && setReport(loaded),
      (error: unknown) => isCurrent && setFailure(error instanceof Error ? error.message : String(error)),
    );
    return () => {
      isCurrent = false;
    };
  }, [canvas, source, unpacked]);

  if (failure || used.failure) return <Failure text={failure || used.failure} />;
  const setPart = (index: number, isVisible: boolean): void => {
    canvas?.setPartVisible(index, isVisible);
    setReport(
      (before) =>
        before && {
          ...before,
          parts: before.parts.map((part, at) => (at === index ? { ...part, isVisible } : part)),
        },
    );
  };
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <Toolbar label="Model">
        <Toggle isOn={false} onClick={() => canvas?.lookAtAll()}>
          Whole model
        </Toggle>
        <Toggle
          isOn={isWireframe}
          onClick={() => {
            setWireframe(!isWireframe);
            canvas?.setWireframe(!isWireframe);
          }}
        >
          Wireframe
        </Toggle>
        {report?.hasSkeleton && (
          <Toggle
            isOn={hasBones}
            onClick={() => {
              setBones(!hasBones);
              canvas?.setSkeletonVisible(!hasBones);
            }}
          >
            Bones
          </Toggle>
        )}
        {report?.clips.map(({ name: clipName, seconds }, index) => (
          <Toggle
            key={clipName}
            isOn={clip === index}
            onClick={() => {
              const next = clip === index ? -1 : index;
              setClip(next);
              canvas?.play(next);
            }}
          >
            {`${clip === index ? 'Stop' : 'Play'} ${clipName}, ${secondsText(seconds)}`}
          </Toggle>
        ))}
      </Toolbar>
      <Box sx={{ flex: 1, display: 'flex', minHeight: 0, position: 'relative' }}>
        <Stage used={used} label={`Model ${name}`} unit={unit} />
        {!report && (
          <Box sx={{ position: 'absolute', inset: 0, display: 'grid', placeItems: 'center' }}>
            <Loading what={name} />
          </Box>
        )}
        {report && report.parts.length > 1 && (
          <Box
            component="fieldset"
            sx={{
              position: 'absolute',
              right: 8,
              top: 8,
              border: 0,
              m: 0,
              p: 1,
              bgcolor: 'background.paper',
              maxHeight: '70%',
              overflow: 'auto',
            }}
          >
            <Typography component="legend" variant="h3" sx={{ float: 'left', width: '100%' }}>
              Parts
            </Typography>
            {report.parts.map((part, index) => (
              <FormControlLabel
                key={index}
                sx={{ display: 'flex', mr: 0, clear: 'both' }}
                control={
                  <Checkbox
                    size="small"
                    sx={{ p: 0.25 }}
                    checked={part.isVisible}
                    onChange={(_, isOn) => setPart(index, isOn)}
                  />
                }
                label={<span className="path">{part.name}</span>}
              />
            ))}
          </Box>
        )}
      </Box>
    </Box>
  );
}
