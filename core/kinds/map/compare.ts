import type { MapDetail, PlacementChange } from '../../../contract/comparisons.ts';
import { plural } from '../../figures.ts';
import { figure, lengthText, named, sentenceOf, timesText, type Comparer } from '../comparing.ts';
import { identify } from '../identify.ts';
import type { ReadRequest } from '../reading.ts';
import { besidesOf, compareBesides, hasOtherRows } from './besides.ts';
import { compareTileMaps } from './compare/tiles.ts';
import { drawChanges } from './compare/draw-changes.ts';
import { compareScenes } from './compare/scenes.ts';
import { openPlacements } from './read.ts';

const mostChanges = 1000;
/** Compares two maps: what came, went, moved, turned, grew or became another model. */
export const compareMaps: Comparer = async (oldRequest, newRequest) => {
  const isBySheet = oldRequest.bySheet !== undefined || newRequest.bySheet !== undefined;
  if (!isBySheet && hasTiles(oldRequest) && hasTiles(newRequest))
    return compareTileMaps(oldRequest, newRequest);
  const [old, now] = [await openPlacements(oldRequest), await openPlacements(newRequest)];
  const { changes, firstModels, goneModels } = compareScenes(old, now);
  const besides = compareBesides(besidesOf(oldRequest), besidesOf(newRequest), hasOtherRows(changes));
  const classes: MapDetail['classes'] = {};
  for (const { class: name, status } of changes) {
    const counts = (classes[name] ??= {});
    counts[status] = (counts[status] ?? 0) + 1;
  }
  const count = (status: PlacementChange['status']): number =>
    changes.filter((change) => change.status === status).length;
  const share = changes.length / Math.max(1, old.length, now.length);
  return {
    comparison: {
      kind: 'map',
      nature: changes.length + besides.sentences.length === 0 ? 'rewritten' : 'other',
      extent: Math.min(1, share + (besides.sentences.length > 0 ? 0.002 : 0)),
      sentence: sentenceOf([
        ...describeChanges(changes, firstModels, besides.sentences.length > 0),
        ...besides.sentences,
      ]),
      figures: [
        ...figure('placements', old.length, now.length),
        ...(['added', 'gone', 'moved', 'turned', 'scaled', 'swapped', 'changed'] as const)
          .filter((status) => count(status) > 0)
          .map((status) => ({ name: status, old: '', new: count(status).toLocaleString('en') })),
        ...(firstModels.length > 0
          ? [
              {
                name: 'models placed for the first time',
                old: '',
                new: firstModels.slice(0, 6).join(', ') + (firstModels.length > 6 ? ' …' : ''),
              },
            ]
          : []),
        ...(goneModels.length > 0
          ? [
              {
                name: 'models placed no more',
                old: goneModels.slice(0, 6).join(', ') + (goneModels.length > 6 ? ' …' : ''),
                new: '',
              },
            ]
          : []),
        ...besides.figures,
      ],
      detail: {
        kind: 'map',
        changes: changes.slice(0, mostChanges),
        total: changes.length,
        classes,
        firstModels,
        goneModels,
        tiles: [],
      },
    },
    picture: drawChanges(now, changes),
  };
};

function hasTiles({ bytes, path }: ReadRequest): boolean {
  return ['tmx', 'tileset'].includes(identify(bytes.subarray(0, 1024), path).format);
}

function describeChanges(
  changes: readonly PlacementChange[],
  firstModels: readonly string[],
  hasMore: boolean,
): string[] {
  if (changes.length === 0)
    return [hasMore ? 'the same placements' : 'the same placements, written otherwise'];
  const parts: string[] = [];
  const of = (status: PlacementChange['status']): PlacementChange[] =>
    changes.filter((change) => change.status === status);
  const added = of('added');
  if (added.length > 0)
    parts.push(
      added.length === 1
        ? `${modelName(added[0]?.model ?? '')} placed`
        : `${added.length.toLocaleString('en')} placements new`,
    );
  const gone = of('gone');
  if (gone.length > 0)
    parts.push(
      gone.length === 1
        ? `${modelName(gone[0]?.model ?? '')} gone`
        : `${gone.length.toLocaleString('en')} gone`,
    );
  const [far] = of('moved');
  if (far)
    parts.push(
      of('moved').length === 1
        ? `${modelName(far.model)} moved by ${lengthText(far.metres)}`
        : `${of('moved').length.toLocaleString('en')} moved, by up to ${lengthText(far.metres)}`,
    );
  for (const status of ['turned', 'scaled', 'swapped', 'changed'] as const) {
    const [first] = of(status);
    if (!first) continue;
    const count = of(status).length;
    const what =
      status === 'swapped'
        ? `is now ${modelName(first.model)}`
        : status === 'turned'
          ? `turned by ${first.degrees.toFixed(0)}°`
          : status === 'scaled'
            ? `${timesText(first.scale)} as large`
            : 'has other properties';
    parts.push(
      count === 1
        ? `${modelName(status === 'swapped' ? first.oldModel : first.model)} ${what}`
        : `${count.toLocaleString('en')} ${status}`,
    );
  }
  if (firstModels.length > 0) parts.push(`${plural(firstModels.length, 'model')} placed for the first time`);
  return parts;
}

function modelName(path: string): string {
  return named(path.slice(path.lastIndexOf('/') + 1).replace(/\.[^.]+$/, ''));
}
