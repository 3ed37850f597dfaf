import { skipToken } from '@reduxjs/toolkit/query';
import { useEffect, useMemo, useState } from 'react';
import type { SaidTexture } from '../../../contract/texture-sets.ts';
import { failureText } from '../../ui/api.ts';
import type { CanvasReport } from '../engine/standing-model.ts';
import type { WayOfSeeing } from '../engine/ways-of-seeing.ts';
import type { useModelCanvas } from '../use-model-canvas.ts';
import { useTextureSetsQuery } from './api.ts';
import { isSameSlot, materialStates, triedFrom, triedWord, wornBy, type Tint } from './material-roles.ts';
import type { PlaceOfModel } from './place-of-model.ts';
import type { useViewerWords } from './use-viewer-words.ts';

const sameAddress = (path: string): string => path;
const nothing: readonly never[] = [];

/** What the materials of a model wear: from its file, from what people said, by names, and as it is tried in the address. */
export function useTextures(
  canvas: ReturnType<typeof useModelCanvas>['canvas'],
  report: CanvasReport | null,
  [said, say]: ReturnType<typeof useViewerWords>,
  place: PlaceOfModel | undefined,
) {
  const materials = report?.materials ?? nothing;
  const {
    data: sets,
    isFetching,
    error,
  } = useTextureSetsQuery(
    place && report && materials.length > 0
      ? {
          ...{ channel: place.channel, build: place.build, path: place.path },
          materials: materials.map(({ name }) => name),
        }
      : skipToken,
  );
  const wear = said.get('wear');
  const palette = said.get('palette');
  const isByName = said.get('sets') !== 'file';
  const fileVariant = said.get('dress');
  const tried = useMemo(() => triedFrom({ get: () => wear }), [wear]);
  const states = useMemo(
    () => materialStates(materials, sets, tried, palette, isByName),
    [materials, sets, tried, palette, isByName],
  );
  const addressOf = place?.addressOf ?? sameAddress;
  const worn = useMemo(() => wornBy(states, tried.tints, addressOf), [states, tried, addressOf]);
  const key = JSON.stringify([worn, fileVariant]);
  const [outcome, setOutcome] = useState<{ ways: WayOfSeeing[]; failures: string[] } | null>(null);
  useEffect(() => {
    if (!canvas || !report) return;
    // What wears nothing else is left as it came.
    if (worn.length === 0 && fileVariant === null && outcome === null) return;
    let isCurrent = true;
    void canvas.wear(worn, fileVariant).then((done) => {
      if (isCurrent && done) setOutcome(done);
    });
    return () => {
      isCurrent = false;
    };
    // The key says all that is worn.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [canvas, report, key]);
  const putTried = (next: Partial<typeof tried>): void => say({ wear: triedWord({ ...tried, ...next }) });
  return {
    ...{ states, sets, tried, palette, isByName, fileVariant },
    isLooking: isFetching,
    ways: outcome?.ways ?? report?.ways ?? nothing,
    failures: outcome?.failures ?? nothing,
    /** Why nothing was found for them; empty where something was. */
    refusal: error ? failureText(error) : '',
    /** Tries a file as a role of a material; undefined for what it is without that. */
    onTry: (slot: Omit<SaidTexture, 'texture'>, texture: string | null | undefined): void =>
      putTried({
        textures: [
          ...tried.textures.filter((one) => !isSameSlot(one, slot)),
          ...(texture === undefined ? [] : [{ ...slot, texture }]),
        ],
      }),
    onTint: (material: string, tint: Tint | null): void =>
      putTried({
        tints: [...tried.tints.filter((one) => one.material !== material), ...(tint ? [tint] : [])],
      }),
    onForget: (): void => putTried({ textures: [] }),
    onPalette: (next: string | null): void => say({ palette: next ?? undefined }),
    onFileVariant: (next: string | null): void => say({ dress: next ?? undefined }),
    onByName: (isOn: boolean): void => say({ sets: isOn ? undefined : 'file' }),
  };
}
