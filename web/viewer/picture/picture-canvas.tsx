import { Box } from '@mui/material';
import {
  useEffect,
  useLayoutEffect,
  useRef,
  useState,
  type KeyboardEvent,
  type PointerEvent,
  type ReactNode,
} from 'react';
import type { PictureView } from '../../../core/kinds/picture/view/draw-view.ts';
import type { PixelRegion } from '../../../core/kinds/picture/view/pixel-bytes.ts';
import type { usePicture } from './use-picture.ts';
import { leastScale, mostScale, type PictureLook, type Place } from './picture-address.ts';

const groundColours = { paper: 'plate', light: '#ffffff', dark: '#101010' } as const;
/** Of the height or width of what is seen. */
const arrowShare = 0.1;
const wheelStep = 1.0015;
/** The address follows once the picture rests. */
const restMs = 300;
const partPauseMs = 250;
const mostPart = 4096;

/** The picture itself, moved and brought near by pointer, wheel and keys. */
export function PictureCanvas({
  canvas,
  used: { picture, part, draw, askValue, askPart },
  label,
  look,
  crop,
  addressOfPart,
  onPlace,
}: {
  canvas: React.RefObject<HTMLCanvasElement | null>;
  used: ReturnType<typeof usePicture>;
  label: string;
  look: PictureLook;
  /** A rectangle that is drawn over it. */
  crop: PixelRegion | null;
  /** Null where the picture comes whole. */
  addressOfPart: ((region: PixelRegion) => string) | null;
  onPlace: (place: Place) => void;
}): ReactNode {
  const holder = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  const [place, setPlace] = useState<Place>(look.place);
  const [light, setLight] = useState({ x: -0.4, y: 0.5 });
  const drag = useRef<{ x: number; y: number } | null>(null);
  useLayoutEffect(() => {
    const element = holder.current;
    if (!element) return;
    const observer = new ResizeObserver(() =>
      setSize({ width: element.clientWidth, height: element.clientHeight }),
    );
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // Buttons say where to look; what is dragged is said once it rests.
  const said = useRef(look.place);
  useEffect(() => {
    if (JSON.stringify(said.current) === JSON.stringify(look.place)) return;
    said.current = look.place;
    setPlace(look.place);
  }, [look.place]);
  useEffect(() => {
    if (place === said.current) return;
    const rest = setTimeout(() => {
      said.current = place;
      onPlace(place);
    }, restMs);
    return () => clearTimeout(rest);
  }, [place, onPlace]);

  const shown = picture && size.width > 0 ? placeOn(picture, size, place) : null;
  const { channels, exposure, isTiled, isLit, isGreenDown } = look;
  const ratio = Math.min(2, window.devicePixelRatio);
  const view = shown && {
    width: Math.max(1, Math.round(size.width * ratio)),
    height: Math.max(1, Math.round(size.height * ratio)),
    scale: shown.scale * ratio,
    left: shown.x - size.width / 2 / shown.scale,
    top: shown.y - size.height / 2 / shown.scale,
    ...{ channels, exposure, isTiled, isGreenDown, light: isLit ? light : null },
  };
  // Drawn when it is another view, or another picture or part of it: not because a pointer told of a value.
  const viewKey = view && JSON.stringify(view);
  useEffect(() => {
    if (viewKey !== null && picture) draw(JSON.parse(viewKey) as PictureView);
  }, [draw, viewKey, picture, part]);
  // Where a picture came smaller than it is, what is looked at closely is asked for as it is.
  const isNear = shown !== null && picture !== null && !picture.isWhole && shown.scale >= 0.5 && !isTiled;
  const near = isNear ? regionOf(shown, size, picture) : null;
  const nearKey = near && !isWithin(near, part) ? JSON.stringify(near) : '';
  useEffect(() => {
    if (nearKey === '' || !addressOfPart) return;
    const pause = setTimeout(() => askPart(addressOfPart(JSON.parse(nearKey) as PixelRegion)), partPauseMs);
    return () => clearTimeout(pause);
  }, [nearKey, addressOfPart, askPart]);

  const zoom = (factor: number, at?: { x: number; y: number }): void => {
    if (!shown) return;
    const scale = Math.max(leastScale, Math.min(mostScale, shown.scale * factor));
    const [dx, dy] = at ? [at.x - size.width / 2, at.y - size.height / 2] : [0, 0];
    // What lies under the pointer stays there.
    setPlace({
      scale,
      x: shown.x + dx / shown.scale - dx / scale,
      y: shown.y + dy / shown.scale - dy / scale,
    });
  };
  const shift = (x: number, y: number): void => {
    if (shown) setPlace({ ...shown, x: shown.x + x / shown.scale, y: shown.y + y / shown.scale });
  };
  const zoomLatest = useRef(zoom);
  useEffect(() => {
    zoomLatest.current = zoom;
  });
  useEffect(() => {
    const element = holder.current;
    if (!element) return;
    const onWheel = (event: WheelEvent): void => {
      event.preventDefault();
      const { left, top } = element.getBoundingClientRect();
      zoomLatest.current(wheelStep ** -event.deltaY, { x: event.clientX - left, y: event.clientY - top });
    };
    // React’s own listeners cannot keep the page from scrolling.
    element.addEventListener('wheel', onWheel, { passive: false });
    return () => element.removeEventListener('wheel', onWheel);
  }, []);
  const onKeyDown = (event: KeyboardEvent): void => {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const actions: Partial<Record<string, () => void>> = {
      ArrowLeft: () => shift(-size.width * arrowShare, 0),
      ArrowRight: () => shift(size.width * arrowShare, 0),
      ArrowUp: () => shift(0, -size.height * arrowShare),
      ArrowDown: () => shift(0, size.height * arrowShare),
      '+': () => zoom(2),
      '=': () => zoom(2),
      '-': () => zoom(0.5),
      '0': () => setPlace(null),
      '1': () => shown && setPlace({ ...shown, scale: 1 }),
    };
    const action = actions[event.key];
    if (!action) return;
    action();
    event.preventDefault();
  };
  const onPointerMove = (event: PointerEvent<HTMLElement>): void => {
    const { left, top, width, height } = event.currentTarget.getBoundingClientRect();
    const [x, y] = [event.clientX - left, event.clientY - top];
    if (drag.current) {
      shift(drag.current.x - x, drag.current.y - y);
      drag.current = { x, y };
    } else if (isLit) setLight({ x: (x / width) * 2 - 1, y: 1 - (y / height) * 2 });
    if (shown && picture) {
      let [column, row] = [
        Math.floor(shown.x + (x - size.width / 2) / shown.scale),
        Math.floor(shown.y + (y - size.height / 2) / shown.scale),
      ];
      if (isTiled) {
        column = ((column % picture.width) + picture.width) % picture.width;
        row = ((row % picture.height) + picture.height) % picture.height;
      }
      askValue({ x: column, y: row });
    }
  };
  return (
    <Box
      ref={holder}
      tabIndex={0}
      role="application"
      aria-label={`${label}: arrows move it, + and - bring it near and far, 0 shows all, 1 shows its pixels as they are`}
      onKeyDown={onKeyDown}
      onPointerDown={(event) => {
        const { left, top } = event.currentTarget.getBoundingClientRect();
        drag.current = { x: event.clientX - left, y: event.clientY - top };
        event.currentTarget.setPointerCapture(event.pointerId);
      }}
      onPointerUp={() => (drag.current = null)}
      onPointerCancel={() => (drag.current = null)}
      onPointerMove={onPointerMove}
      onPointerLeave={() => askValue(null)}
      sx={{
        ...{ flex: 1, minWidth: 0, minHeight: 0, position: 'relative', overflow: 'hidden' },
        ...{ bgcolor: groundColours[look.ground], cursor: 'grab', touchAction: 'none' },
      }}
    >
      <Box
        component="canvas"
        ref={canvas}
        sx={{ position: 'absolute', inset: 0, width: size.width, height: size.height }}
      />
      {crop && shown && (
        <Box
          aria-hidden
          style={{
            left: (crop.left - shown.x) * shown.scale + size.width / 2,
            top: (crop.top - shown.y) * shown.scale + size.height / 2,
            width: crop.width * shown.scale,
            height: crop.height * shown.scale,
          }}
          sx={{
            position: 'absolute',
            outline: '1px dashed',
            outlineColor: 'primary.main',
            pointerEvents: 'none',
          }}
        />
      )}
    </Box>
  );
}

/** All of a picture in view, never larger than it is; or where somebody looks. */
function placeOn(
  { width, height }: { width: number; height: number },
  size: { width: number; height: number },
  place: Place,
): NonNullable<Place> {
  if (place) return place;
  const margin = 24;
  const scale = Math.min((size.width - margin) / width, (size.height - margin) / height);
  // Tiny ones are enlarged in whole steps, so that their pixels are even.
  return {
    scale: scale > 1 ? Math.min(8, Math.floor(scale)) : Math.max(leastScale, scale),
    x: width / 2,
    y: height / 2,
  };
}

function regionOf(
  { scale, x, y }: NonNullable<Place>,
  size: { width: number; height: number },
  picture: { width: number; height: number },
): PixelRegion {
  // In steps, so that a small move asks for nothing new.
  const step = 256;
  const left = Math.max(0, Math.floor((x - size.width / 2 / scale) / step) * step);
  const top = Math.max(0, Math.floor((y - size.height / 2 / scale) / step) * step);
  return {
    ...{ left, top },
    width: Math.min(mostPart, picture.width - left, Math.ceil(size.width / scale / step + 1) * step),
    height: Math.min(mostPart, picture.height - top, Math.ceil(size.height / scale / step + 1) * step),
  };
}

function isWithin(inner: PixelRegion, outer: PixelRegion | null): boolean {
  return (
    outer !== null &&
    inner.left >= outer.left &&
    inner.top >= outer.top &&
    inner.left + inner.width <= outer.left + outer.width &&
    inner.top + inner.height <= outer.top + outer.height
  );
}
