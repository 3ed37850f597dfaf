import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import type { Layer } from '../../../contract/arrangements.ts';
import type { FittingClip } from '../../../contract/clips.ts';
import { bonesInMask } from '../../../core/kinds/model/pose/bone-mask.ts';
import { atRest, type ClipEntry, type Playing } from '../engine/clip-player.ts';
import type { CanvasReport } from '../engine/standing-model.ts';
import type { useModelCanvas } from '../use-model-canvas.ts';
import { clipChoices, clipKey, clipRows, type ClipChoice } from './clip-choices.ts';
import type { useViewerWords } from './use-viewer-words.ts';

type Canvas = ReturnType<typeof useModelCanvas>['canvas'];
type Words = ReturnType<typeof useViewerWords>;

/** A clip that is ready to be played. */
export interface ReadyClip {
  place: number;
  entry: ClipEntry;
  /** Bones that it moves, and that the model lacks. */
  lacking: readonly string[];
}

/** Clips of other files by their keys, loaded once they are asked for; a text says why one cannot be. */
function useLoadedClips(
  canvas: Canvas,
  report: CanvasReport | null,
  asked: readonly Pick<ClipChoice, 'key' | 'path' | 'name'>[],
  addressOf: (path: string) => string,
): ReadonlyMap<string, ReadyClip | string> {
  const [loaded, setLoaded] = useState<{
    of: CanvasReport | null;
    clips: ReadonlyMap<string, ReadyClip | string>;
  }>({ of: null, clips: new Map() });
  const begun = useRef<{ of: CanvasReport | null; keys: Set<string> }>({ of: null, keys: new Set() });
  useEffect(() => {
    if (!canvas || !report) return;
    if (begun.current.of !== report) begun.current = { of: report, keys: new Set() };
    for (const { key, path, name } of asked) {
      if (path === '' || begun.current.keys.has(key)) continue;
      begun.current.keys.add(key);
      const keep = (clip: ReadyClip | string): void =>
        setLoaded((before) => ({
          of: report,
          clips: new Map([...(before.of === report ? before.clips : []), [key, clip]]),
        }));
      canvas.addClip(addressOf(path), name).then(
        (added) => keep(added ?? `${path} has no clip ${name}`),
        (error: unknown) => keep(error instanceof Error ? error.message : String(error)),
      );
    }
  }, [canvas, report, asked, addressOf]);
  return loaded.of === report ? loaded.clips : new Map();
}

/** The clips that can be played, the one that is, its moment, and those that lie over it. */
export function useClips(
  {
    canvas,
    report,
    words: said,
    say,
  }: { canvas: Canvas; report: CanvasReport | null; words: Words[0]; say: Words[1] },
  others: readonly FittingClip[],
  layers: readonly Layer[],
  addressOf: (path: string) => string,
) {
  const choices = useMemo(() => clipChoices(report?.clips ?? [], others), [report, others]);
  const [filter, setFilter] = useState('');
  const [closed, setClosed] = useState<ReadonlySet<string>>(new Set());
  const rows = useMemo(() => clipRows(choices, filter, closed), [choices, filter, closed]);
  const key = said.get('clip');
  const chosen = key === null ? null : (choices.find((choice) => choice.key === key) ?? null);
  const asked = useMemo(
    () => [
      ...(chosen ? [chosen] : []),
      ...layers.map(({ path, clip }) => ({ key: clipKey(path, clip), path, name: clip })),
    ],
    [chosen, layers],
  );
  const loaded = useLoadedClips(canvas, report, asked, addressOf);
  const ready = useMemo(() => {
    const all = new Map<string, ReadyClip | string>(loaded);
    report?.clips.forEach((entry, place) => all.set(entry.name, { place, entry, lacking: [] }));
    return all;
  }, [loaded, report]);
  const current = chosen ? ready.get(chosen.key) : undefined;
  const place = typeof current === 'object' ? current.place : -1;

  const [options, setOptions] = useState<Omit<Playing, 'clip'>>(atRest);
  const { isRunning, isLoop, speed, hasRootMotion } = options;
  useEffect(() => {
    if (!canvas || !report) return;
    canvas.onEnd = () => setOptions((before) => ({ ...before, isRunning: false }));
    canvas.play({ clip: place, isRunning, isLoop, speed, hasRootMotion });
    return () => {
      canvas.onEnd = () => undefined;
    };
  }, [canvas, report, place, isRunning, isLoop, speed, hasRootMotion]);
  useEffect(() => {
    if (!canvas || !report) return;
    canvas.setLayers(
      layers.flatMap(({ path, clip, weight, moves, mask }) => {
        const layer = ready.get(clipKey(path, clip));
        if (typeof layer !== 'object') return [];
        const isAll = mask.branches.length + mask.words.length + mask.bones.length === 0;
        const bones = isAll ? null : bonesInMask(report.bones, mask);
        return [{ clip: layer.place, weight, moves: new Set(moves), mask: bones }];
      }),
    );
  }, [canvas, report, layers, ready]);

  const play = useCallback(
    (change: Partial<Omit<Playing, 'clip'>>): void => setOptions((before) => ({ ...before, ...change })),
    [],
  );
  const choose = useCallback(
    (next: ClipChoice | null): void => {
      say({ clip: next?.key });
      play({ isRunning: next !== null });
    },
    [play, say],
  );
  // Keys come faster than addresses change.
  const latest = useRef(key);
  useEffect(() => {
    latest.current = key;
  }, [key]);
  const step = (by: number): void => {
    const listed = rows.flatMap(({ choice }) => (choice ? [choice] : []));
    if (listed.length === 0) return;
    const at = listed.findIndex((choice) => choice.key === latest.current);
    const next =
      listed[at < 0 ? (by > 0 ? 0 : listed.length - 1) : (at + by + listed.length) % listed.length];
    if (!next) return;
    latest.current = next.key;
    choose(next);
  };
  const seek = (moment: number): void => canvas?.seek(moment);
  /** Tells of each moment that is drawn: whoever shows it does so by itself, so that the page is not made anew with each. */
  const onMoments = useCallback(
    (tell: (seconds: number) => void): (() => void) => {
      if (!canvas) return () => undefined;
      canvas.onMoment = tell;
      return () => {
        canvas.onMoment = () => undefined;
      };
    },
    [canvas],
  );
  return {
    ...{ choices, rows, filter, setFilter, closed, setClosed, chosen, current, ready },
    playing: { ...options, clip: place },
    ...{ play, choose, seek, step, onMoments },
  };
}
