import { Box, Button, MenuItem, Slider, TextField, Typography } from '@mui/material';
import { useCallback, useEffect, useMemo, useRef, useState, type ReactNode } from 'react';
import type { PictureFacts } from '../../../contract/facts.ts';
import type { SpriteFrame, SpriteTables } from '../../../contract/sprites.ts';
import { bytesText } from '../../../core/figures.ts';
import { shownChannels } from '../../../core/kinds/picture/view/draw-view.ts';
import type { PixelRegion } from '../../../core/kinds/picture/view/pixel-bytes.ts';
import { Failure } from '../../ui/states.tsx';
import { Toggle } from '../../ui/toggle.tsx';
import { useViewerWords } from '../model/use-viewer-words.ts';
import { Toolbar } from '../toolbar.tsx';
import { FrameStrip } from './frame-strip.tsx';
import { ImageChooser, type ImageChoice } from './image-chooser.tsx';
import { grounds, pictureChanges, pictureLookFrom, type PictureLook, type Place } from './picture-address.ts';
import { PictureCanvas } from './picture-canvas.tsx';
import { PictureFigures } from './picture-figures.tsx';
import { SpritesStrip } from './sprites-strip.tsx';
import { usePicture } from './use-picture.ts';

const channelNames = {
  ...{ all: 'All channels', colour: 'Without alpha', red: 'Red', green: 'Green', blue: 'Blue' },
  alpha: 'Alpha',
} as const;
const sidesOfCube = 6;
const noSprites: SpriteTables = [];
/** Frames a second, where nobody says how long each is shown. */
const framesPerSecond = 10;

/** A picture with its numbers: channels, mips, sides, frames, values, light. */
export function PictureViewer({
  source,
  pixels,
  facts,
  name,
  isInAddress = false,
  sprites = noSprites,
}: {
  /** A picture that browsers show. */
  source: string;
  /** Where its numbers are, of any image that it holds; nothing where only the source is there. */
  pixels?: string;
  facts: PictureFacts;
  name: string;
  /** Whether the page’s address says how it is looked at. */
  isInAddress?: boolean;
  /** Tables that cut it into frames. */
  sprites?: SpriteTables;
}): ReactNode {
  const [words, say] = useViewerWords(isInAddress);
  const look = pictureLookFrom(words);
  const canvas = useRef<HTMLCanvasElement>(null);
  const [isPlaying, setPlaying] = useState(false);
  const [isCropShown, setCropShown] = useState(false);
  const [sprite, setSprite] = useState<SpriteFrame | null>(null);
  const hasSprites = words.get('sprites') !== '0' && sprites.length > 0;
  const { image, isUnfolded } = look;
  const isCube = facts.faces === sidesOfCube && pixels !== undefined;
  const addressOf = useCallback(
    (of: ImageChoice, region?: PixelRegion): string =>
      pixels === undefined
        ? source
        : `${pixels}?${new URLSearchParams(Object.entries({ ...of, ...region }).map(([key, at]) => [key, String(at)]))}`,
    [pixels, source],
  );
  const imageKey = JSON.stringify(image);
  const addresses = useMemo(() => {
    const of = JSON.parse(imageKey) as ImageChoice;
    return isCube && isUnfolded
      ? Array.from({ length: sidesOfCube }, (_, face) => addressOf({ ...of, face }))
      : [addressOf(of)];
  }, [addressOf, imageKey, isCube, isUnfolded]);
  const used = usePicture(canvas, addresses);
  const { picture, isCurrent, failure, bytes, value } = used;
  const set = (change: Partial<PictureLook>): void => say(pictureChanges(change, look));
  const latest = useRef(set);
  useEffect(() => {
    latest.current = set;
  });
  const onPlace = useCallback((place: Place): void => latest.current({ place }), []);
  // The next frame is asked for once this one is there: slow ones do not pile up.
  const next = (image.frame + 1) % Math.max(1, facts.frames);
  useEffect(() => {
    if (!isPlaying || !isCurrent) return;
    const timer = setTimeout(
      () => latest.current({ image: { ...(JSON.parse(imageKey) as ImageChoice), frame: next } }),
      1000 / framesPerSecond,
    );
    return () => clearTimeout(timer);
  }, [isPlaying, isCurrent, imageKey, next]);
  const addressOfPart = useCallback(
    (region: PixelRegion): string => addressOf(JSON.parse(imageKey) as ImageChoice, region),
    [addressOf, imageKey],
  );
  const hasFrames = pixels !== undefined && facts.frames > 1;
  return (
    <Box sx={{ flex: 1, display: 'flex', flexDirection: 'column', minWidth: 0 }}>
      <Toolbar label="Picture">
        <Toggle isOn={look.place === null} onClick={() => set({ place: null })}>
          Whole
        </Toggle>
        <Toggle
          isOn={look.place?.scale === 1}
          onClick={() =>
            picture &&
            set({
              place: {
                scale: 1,
                x: look.place?.x ?? picture.width / 2,
                y: look.place?.y ?? picture.height / 2,
              },
            })
          }
        >
          100 %
        </Toggle>
        <Choice
          label="Channels"
          value={look.channels}
          options={shownChannels.map((one) => [one, channelNames[one]])}
          onChoose={(channels) => set({ channels })}
        />
        <Choice
          label="Ground"
          value={look.ground}
          options={grounds.map((one) => [one, `On ${one}`])}
          onChoose={(ground) => set({ ground })}
        />
        <Toggle isOn={look.isTiled} onClick={() => set({ isTiled: !look.isTiled })}>
          Tiled
        </Toggle>
        <Toggle isOn={look.isLit} onClick={() => set({ isLit: !look.isLit })}>
          Lit normals
        </Toggle>
        {look.isLit && (
          <Toggle isOn={look.isGreenDown} onClick={() => set({ isGreenDown: !look.isGreenDown })}>
            Green down
          </Toggle>
        )}
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, px: 1 }}>
          <Typography variant="body2">Exposure</Typography>
          <Slider
            size="small"
            aria-label="Exposure"
            min={-8}
            max={8}
            step={0.5}
            value={look.exposure}
            onChange={(_, exposure) => set({ exposure })}
            sx={{ width: 84 }}
          />
          <Typography variant="body2" sx={{ width: 30, fontVariantNumeric: 'tabular-nums' }}>
            {look.exposure > 0 ? `+${look.exposure}` : look.exposure}
          </Typography>
        </Box>
        {pixels !== undefined && (
          <ImageChooser facts={facts} chosen={image} onChoose={(chosen) => set({ image: chosen })} />
        )}
        {isCube && (
          <Toggle isOn={isUnfolded} onClick={() => set({ isUnfolded: !isUnfolded })}>
            Unfolded
          </Toggle>
        )}
        {hasFrames && (
          <>
            <Button onClick={() => setPlaying(!isPlaying)}>{isPlaying ? 'Pause' : 'Play'}</Button>
            <Toggle isOn={look.hasStrip} onClick={() => set({ hasStrip: !look.hasStrip })}>
              Strip
            </Toggle>
          </>
        )}
        {sprites.length > 0 && (
          <Toggle isOn={hasSprites} onClick={() => say({ sprites: hasSprites ? '0' : undefined })}>
            Frames of the table
          </Toggle>
        )}
        <Box sx={{ flex: 1 }} />
        <Toggle isOn={look.hasFigures} onClick={() => set({ hasFigures: !look.hasFigures })}>
          Figures
        </Toggle>
      </Toolbar>
      <Box
        sx={{
          ...{ flex: 1, minHeight: 0, display: 'flex', flexDirection: { xs: 'column', sm: 'row' } },
          position: 'relative',
        }}
      >
        <Box
          sx={{
            ...{ flex: { xs: '0 0 auto', sm: 1 }, height: { xs: 320, sm: 'auto' }, minWidth: 0 },
            ...{ display: 'flex', flexDirection: 'column', position: 'relative' },
          }}
        >
          {failure !== '' && <Failure text={failure} />}
          <PictureCanvas
            canvas={canvas}
            used={used}
            label={`${name}, ${facts.width} by ${facts.height} pixels`}
            look={look}
            crop={hasSprites && sprite ? cutOf(sprite) : isCropShown ? (picture?.crop ?? null) : null}
            addressOfPart={pixels === undefined || (isCube && isUnfolded) ? null : addressOfPart}
            onPlace={onPlace}
          />
          {!isCurrent && failure === '' && (
            <Typography
              role="status"
              variant="body2"
              sx={{ position: 'absolute', left: 12, bottom: 10, bgcolor: 'background.paper', px: 1 }}
            >
              {`Loading ${name}${bytes > 0 ? `, ${bytesText(bytes)}` : ''} …`}
            </Typography>
          )}
          {hasSprites && (
            <SpritesStrip
              tables={sprites}
              source={pixels?.replace('/api/pixels/', '/api/shown/') ?? source}
              {...{ width: facts.width, height: facts.height }}
              shown={sprite?.name ?? null}
              onShow={setSprite}
            />
          )}
          {hasFrames && look.hasStrip && (
            <FrameStrip
              count={facts.frames}
              shown={image.frame}
              addressOf={(frame) => addressOf({ ...image, frame }).replace('/api/pixels/', '/api/shown/')}
              onChoose={(frame) => set({ image: { ...image, frame } })}
            />
          )}
        </Box>
        {picture && look.hasFigures && (
          <PictureFigures {...{ picture, value, isCropShown }} onCrop={setCropShown} />
        )}
      </Box>
    </Box>
  );
}

/** What a frame takes of the picture. */
function cutOf({ left, top, width, height, isTurned }: SpriteFrame): PixelRegion {
  return isTurned ? { left, top, width: height, height: width } : { left, top, width, height };
}

function Choice<Value extends string>({
  label,
  value,
  options,
  onChoose,
}: {
  label: string;
  value: Value;
  options: readonly (readonly [Value, string])[];
  onChoose: (value: Value) => void;
}): ReactNode {
  return (
    <TextField
      select
      variant="standard"
      size="small"
      value={value}
      onChange={({ target }) => onChoose(target.value as Value)}
      slotProps={{ select: { 'aria-label': label }, htmlInput: { 'aria-label': label } }}
      sx={{ mx: 0.5, alignSelf: 'center' }}
    >
      {options.map(([option, text]) => (
        <MenuItem key={option} value={option}>
          {text}
        </MenuItem>
      ))}
    </TextField>
  );
}
