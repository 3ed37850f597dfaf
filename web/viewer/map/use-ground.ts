import { useEffect, useState } from 'react';
import type { MapScene } from '../../../contract/assets.ts';
import type {
  FittedGround,
  GroundExtent,
  GroundLevels,
  HeightField,
} from '../../../core/kinds/map/ground/height-field.ts';
import { pixelsAddress, shownAddress } from '../asset-addresses.ts';
import type { FromGroundWorker, ToGroundWorker } from './ground-worker.ts';
import { groundPlace, type SaidGround } from './ground-words.ts';

/** A ground as it is drawn. */
export interface Ground {
  field: HeightField | null;
  extent: GroundExtent;
  levels: GroundLevels;
  /** Of the picture that lies over it; null for none. */
  cover: string | null;
}

/** What is known of a ground. */
export interface FoundGround {
  /** Null where there is nothing to draw, or not yet. */
  ground: Ground | null;
  fitted: FittedGround | null;
  /** Where it lies as long as nobody says otherwise, and how high it is. */
  place: { extent: GroundExtent; levels: GroundLevels } | null;
  isLoading: boolean;
  failure: string;
}

type Read = { of: string; scene: MapScene } & FromGroundWorker;

/** Reads the ground of a map in a thread of its own, and finds out where it lies. */
export function useGround(
  { channel, build }: { channel: number; build: string },
  scene: MapScene,
  said: SaidGround,
  isLookedAt: boolean,
): FoundGround {
  const isWanted = isLookedAt && (said.heights !== null || (said.picture !== null && said.isSaid));
  const address = said.heights === null ? null : pixelsAddress(channel, build, said.heights);
  const key = isWanted ? (address ?? 'flat') : '';
  const [read, setRead] = useState<Read | null>(null);
  useEffect(() => {
    if (key === '') return;
    const worker = new Worker(new URL('./ground-worker.ts', import.meta.url), { type: 'module' });
    worker.onmessage = ({ data }: MessageEvent<FromGroundWorker>): void => {
      setRead({ of: key, scene, ...data });
      worker.terminate();
    };
    worker.onerror = (): void => setRead({ of: key, scene, reason: 'it could not be read' });
    worker.postMessage({ address, scene } satisfies ToGroundWorker);
    return () => worker.terminate();
  }, [key, address, scene]);
  const current = read?.of === key && read.scene === scene ? read : null;
  if (!current) return { ground: null, fitted: null, place: null, isLoading: key !== '', failure: '' };
  if ('reason' in current)
    return { ground: null, fitted: null, place: null, isLoading: false, failure: current.reason };
  const { field, fitted, likely } = current;
  const place = groundPlace(said, fitted, likely);
  // What was found by names alone, and on which nothing stands, is some other picture.
  const isDrawn = fitted !== null || said.isSaid;
  return {
    ground: isDrawn
      ? { field, ...place, cover: said.picture && shownAddress(channel, build, said.picture) }
      : null,
    ...{ fitted, place, isLoading: false, failure: '' },
  };
}
