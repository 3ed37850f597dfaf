import type { LikenessItem } from '../../core/findings/likeness/pair.ts';
import { seeded } from '../../demo/seeded.ts';
import type { Sample } from './collection.ts';

/** What went between two builds and what is new; `truth` has the old paths by the new ones. */
export interface Trial {
  gone: LikenessItem[];
  fresh: LikenessItem[];
  truth: Map<string, string>;
  edits: Map<string, string>;
}

/** Of all files: what goes, what is new, and what is renamed and changed at once; the rest stays as it is. */
export interface Shares {
  gone: number;
  fresh: number;
  renamed: number;
}

/**
 * An update of a collection, drawn by lot. Names change as they do in games: the folder alone, a word of the name, all but its
 * number, or all of it.
 */
export function drawTrial(
  samples: readonly Sample[],
  seed: number,
  shares: Shares = { gone: 0.2, fresh: 0.2, renamed: 0.2 },
): Trial {
  const random = seeded(seed);
  const pick = <Item>(items: readonly Item[]): Item => items[Math.floor(random() * items.length)] as Item;
  const words = [...new Set(samples.flatMap(({ path }) => nameOf(path).match(/[A-Za-z]{3,}/g) ?? []))];
  const folders = [...new Set(samples.map(({ path }) => folderOf(path)))];
  const trial: Trial = { gone: [], fresh: [], truth: new Map(), edits: new Map() };
  const item = ({ kind, size, signature }: Pick<Sample, 'kind' | 'size' | 'signature'>, path: string) => ({
    path,
    kind,
    size,
    signature,
  });
  const taken = new Set(samples.map(({ path }) => path));
  for (const sample of samples) {
    const lot = random();
    if (lot > shares.gone + shares.fresh + shares.renamed) continue;
    if (lot < shares.gone) trial.gone.push(item(sample, sample.path));
    else if (lot < shares.gone + shares.fresh || !sample.edited) trial.fresh.push(item(sample, sample.path));
    else {
      const ending = sample.path.slice(sample.path.lastIndexOf('.'));
      const name = nameOf(sample.path).slice(0, -ending.length);
      const how = random();
      const renamed =
        how < 0.2
          ? name
          : how < 0.3 && /\d/.test(name)
            ? name.replace(/\d+(?=\D*$)/, String(Math.floor(random() * 100)))
            : how < 0.6
              ? oneWordOf(name, pick(words), random())
              : how < 0.8
                ? `${pick(words)}${/\d+$/.exec(name)?.[0] ?? ''}`
                : `${pick(words)}_${pick(words)}`;
      const folder = how < 0.2 || random() < 0.5 ? pick(folders) : folderOf(sample.path);
      const path = `${folder}${renamed}${ending}`;
      if (taken.has(path)) continue;
      taken.add(path);
      trial.gone.push(item(sample, sample.path));
      trial.fresh.push(item({ ...sample, ...sample.edited }, path));
      trial.truth.set(path, sample.path);
      trial.edits.set(path, sample.edited.edit);
    }
  }
  return trial;
}

function oneWordOf(name: string, by: string, lot: number): string {
  const words = [...name.matchAll(/[A-Za-z]{2,}/g)];
  const word = words[Math.floor(lot * words.length)];
  return word
    ? `${name.slice(0, word.index)}${by}${name.slice(word.index + word[0].length)}`
    : `${name}_${by}`;
}

const nameOf = (path: string): string => path.slice(path.lastIndexOf('/') + 1);
const folderOf = (path: string): string => path.slice(0, path.lastIndexOf('/') + 1);
