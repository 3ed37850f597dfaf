import { skipToken } from '@reduxjs/toolkit/query';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { isForShortcut } from '../../ui/shortcuts.ts';
import { useAddress } from '../../ui/use-address.ts';
import { assetsApi, useAssetsBesideQuery } from '../../viewer/assets-api.ts';

/** What of the address belongs to one asset, and not to the next. */
const ofOne = {
  ...{ eye: undefined, part: undefined, hide: undefined, bone: undefined, clip: undefined, set: undefined },
  ...{ arrangement: undefined, level: undefined, at: undefined, image: undefined, placement: undefined },
  ...{ loop: undefined, channel: undefined, cut: undefined, uv: undefined, dress: undefined },
  ...{ wear: undefined, palette: undefined, nolayer: undefined },
};

/** A page that was asked for is there by then, or somebody went elsewhere. */
const onTheWayMs = 1000;

/** Page Up and Page Down go from one asset of a folder to the next, whatever is looked at; not while a list or a text scrolls by them. */
export function useNeighbours(channel: number, build: string, path: string): void {
  const { data: beside } = useAssetsBesideQuery(
    build === '' || path === '' ? skipToken : { channel, build, path },
  );
  const data = useMemo(() => beside?.map((asset) => asset.path), [beside]);
  const [, set] = useAddress();
  const prefetch = assetsApi.usePrefetch('asset');
  useEffect(() => {
    // What comes next is asked for before somebody does.
    const at = data?.indexOf(path) ?? -1;
    for (const next of [data?.[at + 1], data?.[at - 1], data?.[at + 2]])
      if (at >= 0 && next !== undefined) prefetch({ channel, build, path: next });
  }, [data, path, channel, build, prefetch]);
  const latest = useRef({ data, path, set });
  useEffect(() => {
    latest.current = { data, path, set };
  });
  const waiting = useRef(0);
  /** Where somebody went a moment ago: keys come faster than pages. */
  const asked = useRef({ path: '', atMs: -onTheWayMs });
  useEffect(() => {
    if (asked.current.path === path) asked.current.atMs = -onTheWayMs;
  }, [path]);
  const go = useCallback((step: number): void => {
    const { data: list = [], path: drawn, set: put } = latest.current;
    const isOnTheWay = performance.now() - asked.current.atMs < onTheWayMs;
    const here = isOnTheWay ? asked.current.path : drawn;
    const at = list.indexOf(here);
    const next = at < 0 ? undefined : list[Math.max(0, Math.min(list.length - 1, at + step))];
    if (next === undefined || next === here) return;
    asked.current = { path: next, atMs: performance.now() };
    put({ ...ofOne, path: next });
  }, []);
  useEffect(() => {
    if (!data || waiting.current === 0) return;
    const steps = waiting.current;
    waiting.current = 0;
    go(steps);
  }, [data, go]);
  useEffect(() => {
    const onKeyDown = (event: KeyboardEvent): void => {
      const step = { PageUp: -1, PageDown: 1 }[event.key];
      if (step === undefined || event.defaultPrevented || !isForShortcut(event)) return;
      const { target } = event;
      const isStage = target instanceof Element && target.closest('[role=application]') !== null;
      if (target !== document.body && !isStage) return;
      event.preventDefault();
      // Whoever is quicker than the folder is not forgotten: they go on once it is here.
      if (latest.current.data) go(step);
      else waiting.current += step;
    };
    window.addEventListener('keydown', onKeyDown);
    return () => window.removeEventListener('keydown', onKeyDown);
  }, [go]);
}
