import { useCallback, useEffect, useMemo, useState } from 'react';
import { skipToken } from '@reduxjs/toolkit/query';
import type { SetUp } from '../../../contract/arrangements.ts';
import type { CanvasReport } from '../engine/standing-model.ts';
import type { useModelCanvas } from '../use-model-canvas.ts';
import { useArrangementsQuery } from './api.ts';
import type { PlaceOfModel } from './place-of-model.ts';
import { partKey, plainSetUp, setUpFrom, setUpWord } from './set-up.ts';
import type { useViewerWords } from './use-viewer-words.ts';

type Canvas = ReturnType<typeof useModelCanvas>['canvas'];

/** How the model is set up: as the address says, or as the arrangement was kept that it names. */
export function useSetUp(
  canvas: Canvas,
  report: CanvasReport | null,
  [said, say]: ReturnType<typeof useViewerWords>,
  place: PlaceOfModel | undefined,
) {
  const { data: kept } = useArrangementsQuery(
    place ? { channel: place.channel, path: place.path } : skipToken,
  );
  const name = said.get('arrangement');
  const word = said.get('set');
  const named = kept?.find((one) => one.name === name);
  const setUp = useMemo(() => setUpFrom({ get: () => word }) ?? named?.setUp ?? plainSetUp, [word, named]);
  const change = useCallback(
    (next: Partial<SetUp>): void => {
      // Once it is changed it is no longer what was kept.
      say({ set: setUpWord({ ...setUp, ...next }), arrangement: undefined });
    },
    [say, setUp],
  );
  const choose = useCallback(
    (arrangement: string | null): void => say({ set: undefined, arrangement: arrangement ?? undefined }),
    [say],
  );
  const { moved, props, leftOut } = setUp;
  const parts = report?.parts;
  useEffect(() => {
    if (!canvas || !parts) return;
    const moves = new Map(moved.map((one) => [one.part, one]));
    canvas.setMoved(
      new Map(
        parts.flatMap((part) => {
          const move = moves.get(partKey(part));
          return move ? [[part.id, move] as const] : [];
        }),
      ),
    );
  }, [canvas, parts, moved]);
  const [outcomes, setOutcomes] = useState<readonly (string | null)[]>([]);
  const addressOf = place?.addressOf;
  useEffect(() => {
    if (!canvas || !parts || !addressOf) return;
    let isCurrent = true;
    void canvas
      .setProps(
        props.map(({ path, on, place: at, turnDegrees, scale }) => ({
          ...{ address: addressOf(path), on, place: at, turnDegrees, scale },
        })),
      )
      .then((outcome) => isCurrent && setOutcomes(outcome));
    return () => {
      isCurrent = false;
    };
  }, [canvas, parts, props, addressOf]);
  /** Parts that are left out, by their places. */
  const out = useMemo(() => {
    const keys = new Set(leftOut);
    return (parts ?? []).filter((part) => keys.has(partKey(part))).map(({ id }) => id);
  }, [parts, leftOut]);
  return {
    setUp,
    isEmpty: setUpWord(setUp) === undefined,
    chosen: named?.name ?? null,
    out,
    outcomes,
    change,
    choose,
  };
}
