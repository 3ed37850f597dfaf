import { Box, Slider, Typography } from '@mui/material';
import { useEffect, useRef, useState, type PointerEvent, type ReactNode, type RefObject } from 'react';
import type { Asset, ComparedStates } from '../../../contract/assets.ts';
import { shownAddress } from '../../viewer/asset-addresses.ts';
import { isShownPlain, sourceOf } from '../../library/assets/source-of.ts';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { Toggle } from '../../ui/toggle.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { usePlace } from '../../ui/use-span.ts';
import { ImageChooser, firstImage, type ImageChoice } from '../../viewer/picture/image-chooser.tsx';
import { Toolbar } from '../../viewer/toolbar.tsx';
import { useWay } from './use-way.ts';
import { Ways } from './ways.tsx';

const ways = [
  ['side', 'Side by side'],
  ['swipe', 'Swipe'],
  ['blink', 'Blink'],
  ['difference', 'Difference'],
] as const;
const channels = [
  ['all', 'All'],
  ['red', 'Red'],
  ['green', 'Green'],
  ['blue', 'Blue'],
  ['alpha', 'Alpha'],
] as const;
const zooms = [1, 2, 4, 8] as const;

/** Rows of a colour matrix that show one channel as grey, the others not at all. */
const matrices: Record<string, string> = {
  red: '1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 0 0 0 0 1',
  green: '0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 0 0 0 1',
  blue: '0 0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 0 0 1',
  alpha: '0 0 0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 0 0 1',
};

/** Two pictures with one zoom and one place: beside each other, over each other, in turns, or what differs. */
export default function PictureCompare({ states }: { states: ComparedStates }): ReactNode {
  const { channel } = usePlace();
  const [parameters, set] = useAddress();
  const [way, setWay] = useWay('way', ['side', 'swipe', 'blink', 'difference']);
  const [shownChannel, setChannel] = useWay('channel', ['all', 'red', 'green', 'blue', 'alpha']);
  const [zoom, setZoom] = useState<number | 'fit'>('fit');
  const [image, setImage] = useState<ImageChoice>({
    ...firstImage,
    level: Number(parameters.get('mip') ?? 0),
  });
  const [swipe, setSwipe] = useState(50);
  const [gain, setGain] = useState(4);
  const isNewShown = useBlink(way === 'blink');
  const [pixel, setPixel] = useState('');
  const scrollers = [useRef<HTMLDivElement>(null), useRef<HTMLDivElement>(null)] as const;
  const images = [useRef<HTMLImageElement>(null), useRef<HTMLImageElement>(null)] as const;
  const { old, new: now } = states;
  const facts = now.facts?.kind === 'picture' ? now.facts : null;
  const address = (asset: Asset): string => {
    const isFirst = image.level + image.layer + image.face + image.slice + image.frame === 0;
    if (isFirst && isShownPlain(asset)) return sourceOf(channel.id, asset);
    return `${shownAddress(channel.id, asset.build, asset.path)}?${new URLSearchParams(Object.entries(image).map(([key, at]) => [key, String(at)]))}`;
  };
  const filter = shownChannel === 'all' ? undefined : `url(#channel-${shownChannel})`;
  // One size for both, so that what lies over one another fits: that of the newer one.
  const width = facts ? Math.max(1, facts.width >> image.level) : 0;
  const size = zoom === 'fit' ? { maxWidth: '100%', maxHeight: '100%' } : { width: width * zoom };
  const follow = (from: 0 | 1): void => {
    const [source, other] = [scrollers[from].current, scrollers[from === 0 ? 1 : 0].current];
    if (!source || !other) return;
    other.scrollLeft = source.scrollLeft;
    other.scrollTop = source.scrollTop;
  };
  const onMove = (event: PointerEvent<HTMLElement>): void => setPixel(pixelText(event, images));
  const picture = (asset: Asset, at: 0 | 1, style: React.CSSProperties = {}): ReactNode => (
    <img
      ref={images[at]}
      src={address(asset)}
      alt={`${at === 0 ? 'before' : 'after'}, ${asset.build}`}
      onPointerMove={onMove}
      style={{
        ...size,
        filter,
        objectFit: 'contain',
        imageRendering: typeof zoom === 'number' && zoom > 1 ? 'pixelated' : 'auto',
        display: 'block',
        ...style,
      }}
    />
  );
  const stage = (content: ReactNode, at: 0 | 1, label: string): ReactNode => (
    <Box
      key={label}
      sx={{
        flex: 1,
        minWidth: 0,
        display: 'flex',
        flexDirection: 'column',
        borderLeft: at,
        borderColor: 'divider',
      }}
    >
      <Typography variant="caption" sx={{ px: 1 }}>
        {label}
      </Typography>
      <Box
        ref={scrollers[at]}
        tabIndex={0}
        role="region"
        aria-label={label}
        onScroll={() => follow(at)}
        sx={{
          flex: 1,
          minHeight: 0,
          overflow: 'auto',
          bgcolor: 'plate',
          display: 'flex',
          p: 1,
          '& > *': { m: 'auto' },
        }}
      >
        {content}
      </Box>
    </Box>
  );
  const layered = (top: ReactNode): ReactNode => (
    <Box
      sx={{
        position: 'relative',
        maxWidth: '100%',
        maxHeight: '100%',
        display: 'flex',
        isolation: 'isolate',
      }}
    >
      {picture(old, 0)}
      {top}
    </Box>
  );
  const over = {
    position: 'absolute',
    inset: 0,
    width: '100%',
    height: '100%',
    maxWidth: 'none',
    maxHeight: 'none',
  } as const;
  return (
    <Box
      sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}
      onKeyDown={(event) => {
        if (event.key !== '+' && event.key !== '-') return;
        const at = zoom === 'fit' ? -1 : zooms.indexOf(zoom as (typeof zooms)[number]);
        setZoom(zooms[at + (event.key === '+' ? 1 : -1)] ?? (event.key === '+' ? 8 : 'fit'));
      }}
    >
      <ChannelFilters />
      <Toolbar label="Ways of looking">
        <Ways ways={ways} chosen={way} onChoose={setWay} />
        <Divider />
        <Ways ways={channels} chosen={shownChannel} onChoose={setChannel} />
        <Divider />
        <Toggle isOn={zoom === 'fit'} onClick={() => setZoom('fit')}>
          Whole
        </Toggle>
        {zooms.map((factor) => (
          <Toggle
            key={factor}
            isOn={zoom === factor}
            onClick={() => setZoom(factor)}
          >{`${factor * 100}%`}</Toggle>
        ))}
        {facts && (
          <ImageChooser
            facts={facts}
            chosen={image}
            onChoose={(chosen) => {
              setImage(chosen);
              set({ mip: chosen.level > 0 ? String(chosen.level) : '' });
            }}
          />
        )}
        {way === 'difference' && (
          <Box sx={{ width: 150, px: 1, display: 'flex', gap: 1, alignItems: 'center' }}>
            <Slider
              size="small"
              min={1}
              max={32}
              value={gain}
              onChange={(_, value) => setGain(value)}
              aria-label="Amplification"
            />
            {`×${gain}`}
          </Box>
        )}
        {way === 'swipe' && (
          <Box sx={{ width: 150, px: 1 }}>
            <Slider
              size="small"
              value={swipe}
              onChange={(_, value) => setSwipe(value)}
              aria-label="How much of the older one"
            />
          </Box>
        )}
        <Box sx={{ flex: 1 }} />
        <Typography className="path" role="status" sx={{ alignSelf: 'center', pr: 1 }}>
          {pixel}
        </Typography>
      </Toolbar>
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        {way === 'side' && [
          stage(picture(old, 0), 0, `before, ${old.build}`),
          stage(picture(now, 1), 1, `after, ${now.build}`),
        ]}
        {way === 'swipe' &&
          stage(
            layered(picture(now, 1, { ...over, clipPath: `inset(0 0 0 ${swipe}%)` })),
            0,
            `left before, ${old.build}; right after, ${now.build}`,
          )}
        {way === 'blink' &&
          stage(
            layered(picture(now, 1, { ...over, opacity: isNewShown ? 1 : 0 })),
            0,
            isNewShown ? `after, ${now.build}` : `before, ${old.build}`,
          )}
        {way === 'difference' &&
          stage(
            <Box sx={{ filter: `brightness(${gain})`, maxWidth: '100%', maxHeight: '100%', display: 'flex' }}>
              {layered(picture(now, 1, { ...over, mixBlendMode: 'difference' }))}
            </Box>,
            0,
            `what differs, ${gain} times as strong`,
          )}
      </Box>
    </Box>
  );
}

function Divider(): ReactNode {
  return <Box sx={{ borderLeft: 1, borderColor: 'divider', mx: 0.5 }} />;
}

function ChannelFilters(): ReactNode {
  return (
    <svg width={0} height={0} style={{ position: 'absolute' }} aria-hidden>
      {Object.entries(matrices).map(([name, values]) => (
        <filter key={name} id={`channel-${name}`} colorInterpolationFilters="sRGB">
          <feColorMatrix type="matrix" values={values} />
        </filter>
      ))}
    </svg>
  );
}

/** In turns by itself, unless somebody wants less motion: then, and always, with the key b. */
function useBlink(isOn: boolean): boolean {
  const [isNew, setNew] = useState(true);
  useEffect(() => {
    if (!isOn) return;
    const isStill = window.matchMedia('(prefers-reduced-motion: reduce)').matches;
    const timer = isStill ? undefined : setInterval(() => setNew((before) => !before), 700);
    const onKey = (event: globalThis.KeyboardEvent): void => {
      if (event.key !== 'b' || !isForShortcut(event)) return;
      clearInterval(timer);
      setNew((before) => !before);
    };
    window.addEventListener('keydown', onKey);
    return () => {
      clearInterval(timer);
      window.removeEventListener('keydown', onKey);
    };
  }, [isOn]);
  return isNew;
}

/** The pixel below the pointer, in both. */
function pixelText(
  event: PointerEvent<HTMLElement>,
  images: readonly [RefObject<HTMLImageElement | null>, RefObject<HTMLImageElement | null>],
): string {
  const box = event.currentTarget.getBoundingClientRect();
  const shares = [(event.clientX - box.left) / box.width, (event.clientY - box.top) / box.height] as const;
  const values = images.map(({ current }) => {
    if (!current || current.naturalWidth === 0) return null;
    const x = Math.min(current.naturalWidth - 1, Math.max(0, Math.floor(shares[0] * current.naturalWidth)));
    const y = Math.min(current.naturalHeight - 1, Math.max(0, Math.floor(shares[1] * current.naturalHeight)));
    const context = new OffscreenCanvas(1, 1).getContext('2d', { willReadFrequently: true });
    context?.drawImage(current, x, y, 1, 1, 0, 0, 1, 1);
    return { x, y, text: [...(context?.getImageData(0, 0, 1, 1).data ?? [])].join(' ') };
  });
  const [old, now] = values;
  const at = now ?? old;
  return at ? `${at.x}, ${at.y}: ${old?.text ?? '–'} → ${now?.text ?? '–'}` : '';
}
