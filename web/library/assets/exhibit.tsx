import { useSnackbar } from 'notistack';
import { lazy, Suspense, useMemo, useState, type ComponentProps, type ReactNode } from 'react';
import type { Asset } from '../../../contract/assets.ts';
import type { SoundFacts } from '../../../contract/facts.ts';
import { failureText } from '../../ui/api.ts';
import { nameOf } from '../../ui/path-text.tsx';
import { Empty, Loading } from '../../ui/states.tsx';
import { useAddress } from '../../ui/use-address.ts';
import { assetPath, usePlace, useSpan } from '../../ui/use-span.ts';
import { contentAddress, filmAddress, shownAddress } from '../../viewer/asset-addresses.ts';
import { useSceneQuery } from '../../viewer/assets-api.ts';
import { unitOfFacts } from '../../viewer/length-unit.ts';
import { useSpriteTablesQuery } from '../../viewer/picture/api.ts';
import { TableViewer, TextViewer } from '../../viewer/text/text-viewer.tsx';
import { useFamilyQuery } from '../families/api.ts';
import { levelsOf } from '../families/levels-of.ts';
import { useAcceptLinksMutation } from '../references/api.ts';
import { Preview } from './preview.tsx';
import { sourceOf } from './source-of.ts';

// Viewers come when something is opened that they are for: some are large.
const ModelViewer = lazy(() => import('../../viewer/model/model-viewer.tsx'));
const PictureViewer = lazy(() =>
  import('../../viewer/picture/picture-viewer.tsx').then(({ PictureViewer: viewer }) => ({
    default: viewer,
  })),
);
const MapViewer = lazy(() => import('../../viewer/map/map-viewer.tsx'));
const VoicesList = lazy(() =>
  import('../../viewer/sound/voices-list.tsx').then(({ VoicesList: list }) => ({ default: list })),
);
const FontViewer = lazy(() => import('../../viewer/font/font-viewer.tsx'));
const TileViewer = lazy(() => import('../../viewer/tiles/tile-viewer.tsx'));
const FilmViewer = lazy(() => import('../../viewer/film/film-viewer.tsx'));
const SoundPlayer = lazy(() => import('../../viewer/sound/sound-player.tsx'));

/** What a thing looks or sounds like, in whatever can show it. */
export function Exhibit({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  if (asset.hash === null)
    return <Empty title="Its content is not there">{asset.problem ?? 'It could not be read.'}</Empty>;
  const shown = shownAddress(channel.id, asset.build, asset.path);
  const source = sourceOf(channel.id, asset);
  switch (asset.kind) {
    case 'picture':
      return asset.facts?.kind === 'picture' ? (
        <PlacedPictureViewer
          asset={asset}
          source={source}
          pixels={shown.replace('/api/shown/', '/api/pixels/')}
          facts={asset.facts}
          name={nameOf(asset.path)}
          isInAddress
        />
      ) : (
        <Unreadable asset={asset} />
      );
    case 'model':
    case 'clip':
      return (
        <PlacedModelViewer
          asset={asset}
          source={source}
          unpacked={shown}
          name={nameOf(asset.path)}
          unit={unitOfFacts(asset.facts)}
          isInAddress
        />
      );
    case 'font':
      return asset.facts?.kind === 'font' ? (
        <FontViewer
          source={contentAddress(asset.hash, asset.format)}
          charactersAt={shown}
          facts={asset.facts}
          name={nameOf(asset.path)}
        >
          {asset.hasPreview && <Preview {...asset} />}
        </FontViewer>
      ) : (
        <Unreadable asset={asset} />
      );
    case 'sound':
      if (asset.facts?.kind === 'sound' && asset.facts.notes !== null)
        return (
          <Empty title="Notes, and nothing to hear">
            It says when which instrument plays; the sounds themselves lie elsewhere.
          </Empty>
        );
      return asset.facts?.kind === 'sound' ? (
        <PlacedSoundPlayer asset={asset} facts={asset.facts} source={source} />
      ) : (
        <Unreadable asset={asset} />
      );
    case 'film':
      return (
        <FilmViewer
          source={contentAddress(asset.hash, asset.format)}
          films={filmAddress(asset.hash, asset.format)}
          facts={asset.facts?.kind === 'film' ? asset.facts : null}
          name={nameOf(asset.path)}
        />
      );
    case 'map':
      return asset.facts?.kind === 'map' && asset.facts.tiles !== null ? (
        asset.hasPreview ? (
          <TileViewer source={shown} name={nameOf(asset.path)} tiles={asset.facts.tiles} />
        ) : (
          <Empty title="This is not drawn">
            Its facts stand beside: there is no tile on it, its picture is not there, or its pictures are far
            too large for its cells.
          </Empty>
        )
      ) : (
        <PlacedMapViewer asset={asset} />
      );
    case 'text':
      return asset.format === 'sheet-table' ? (
        <TableViewer channel={channel.id} build={asset.build} path={asset.path} />
      ) : (
        <TextViewer hash={asset.hash} format={asset.format} path={asset.path} />
      );
    default:
      return (
        <Empty title={`No viewer for ${asset.format}`}>It was hashed and kept; Save writes its bytes.</Empty>
      );
  }
}

/** A sound with those beside it in its folder, and with what a voice says. */
function PlacedSoundPlayer({
  asset: { build, path, format },
  facts,
  source,
}: {
  asset: Asset;
  facts: SoundFacts;
  source: string;
}): ReactNode {
  const { channel } = usePlace();
  const [, set] = useAddress();
  const shown = shownAddress(channel.id, build, path);
  return (
    <SoundPlayer
      // Browsers read all samples of a WAV file; of others the server tells how many there are.
      wave={format === 'wav' ? source : shown}
      {...{ source, facts }}
      name={nameOf(path)}
      isInAddress
    >
      <VoicesList
        {...{ channel: channel.id, build, path }}
        onOpen={(next) => set({ path: next, loop: undefined, channel: undefined })}
      />
    </SoundPlayer>
  );
}

/** A picture with the frames that tables of its build cut it into. */
function PlacedPictureViewer({
  asset: { build, path },
  ...picture
}: { asset: Asset } & Omit<ComponentProps<typeof PictureViewer>, 'sprites'>): ReactNode {
  const { channel } = usePlace();
  const { width, height } = picture.facts;
  const { data: sprites } = useSpriteTablesQuery({ channel: channel.id, build, path, width, height });
  return <PictureViewer {...picture} {...(sprites && { sprites })} />;
}

/** A map: what stands on it is asked for while its viewer comes. */
function PlacedMapViewer({ asset }: { asset: Asset }): ReactNode {
  const { channel } = usePlace();
  useSceneQuery({ channel: channel.id, build: asset.build, path: asset.path });
  return (
    <Suspense fallback={<Loading what="the viewer" />}>
      <MapViewer asset={asset} />
    </Suspense>
  );
}

/** A model with its levels of detail, and with what is found beside it in its build. */
function PlacedModelViewer({
  asset,
  ...model
}: { asset: Asset } & Omit<ComponentProps<typeof ModelViewer>, 'place'>): ReactNode {
  const { title, channel } = usePlace();
  const { from, to } = useSpan();
  const { build, path, hash, format, hasPreview } = asset;
  const { data: family } = useFamilyQuery({ channel: channel.id, build, path });
  const [accept] = useAcceptLinksMutation();
  const { enqueueSnackbar } = useSnackbar();
  /** It is loaded anew once its links are others. */
  const [turn, setTurn] = useState(0);
  const place = useMemo(
    () => ({
      ...{ channel: channel.id, build, path },
      addressOf: (other: string) => shownAddress(channel.id, build, other),
      levels: levelsOf(family?.members ?? [], path),
      ...(hasPreview && { still: `/api/preview/${hash}?format=${format}` }),
      linkTo: (other: string) => assetPath({ title, channel }, { from, to }, other, build),
      onLink: (links: { text: string; target: string }[]) =>
        void accept({
          channel: channel.id,
          links: links.map((link) => ({ from: path, ...link })),
        }).then(({ error }) => {
          if (error) enqueueSnackbar(failureText(error), { variant: 'error' });
          else setTurn((before) => before + 1);
        }),
    }),
    [title, channel, from, to, build, path, hash, format, hasPreview, family, accept, enqueueSnackbar],
  );
  return <ModelViewer key={turn} {...model} place={place} />;
}

function Unreadable({ asset }: { asset: Asset }): ReactNode {
  return <Empty title="This cannot be shown">{asset.problem ?? 'No reader could make sense of it.'}</Empty>;
}
