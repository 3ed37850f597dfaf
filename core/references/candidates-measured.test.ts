import { expect } from 'chai';
import { readdirSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname } from 'node:path';
import { Lexicon } from '../names/lexicon.ts';
import { candidatesFor } from './candidates.ts';
import { placesOfPaths } from './places-of-paths.ts';
import { resolve } from './resolve.ts';

/**
 * How right proposals are that are ticked by themselves, on trees that nobody here made: the flags and styles of the package
 * `flag-icons` (MIT), and Debian's `assimp-testmodels` (BSD, MIT). Targets that are known are taken away, or renamed and
 * moved as an update might, one after the other.
 */
describe('Proposals for missing links, measured', () => {
  const lexicon = new Lexicon();
  const flags = filesOf(dirname(createRequire(import.meta.url).resolve('flag-icons-new/package.json')));
  const models = filesOf('/usr/share/assimp/models');
  const isTarget = (path: string): boolean => /\.(svg|png|jpe?g|bmp|tga|dds|obj|mtl|bin|glb)$/i.test(path);
  const trees = [flags, models];

  interface Count {
    tried: number;
    ticked: number;
    right: number;
  }

  /** @param change what becomes of a target: its new path, or null where it is gone */
  const measure = (change: (path: string) => string | null, most: number): Count => {
    const count: Count = { tried: 0, ticked: 0, right: 0 };
    for (const paths of trees) {
      const targets = paths.filter(isTarget).slice(0, most);
      for (const target of targets) {
        const now = change(target);
        const text = target.slice(target.lastIndexOf('/', target.lastIndexOf('/') - 1) + 1);
        count.tried++;
        const from = 'definitions/list.json';
        const places = now === null ? placesWithout(paths, target) : placesWithout(paths, target, now);
        if (resolve(places, { text, sort: 'path', where: 'file' }, from)) continue;
        const [best] = candidatesFor(places.index, places.isThere, text, from);
        if (!best?.isCertain) continue;
        count.ticked++;
        if (best.path === now) count.right++;
      }
    }
    return count;
  };
  const made = new Map<string, ReturnType<typeof placesOfPaths>>();
  /** A tree without one of its paths, and with another one: one index for all of them, in which some are not there. */
  const placesWithout = (paths: readonly string[], gone: string, fresh?: string) => {
    const key = `${paths[0] ?? ''} ${fresh === undefined ? '' : 'renamed'}`;
    let places = made.get(key);
    if (!places) {
      const renamed = fresh === undefined ? [] : paths.filter(isTarget).map(renamedPath);
      places = placesOfPaths([...new Set([...paths, ...renamed])], lexicon);
      made.set(key, places);
    }
    const { index } = places;
    const original = new Set(paths);
    const isThere = (number: number): boolean => {
      const path = index.path(number);
      return path === fresh || (path !== gone && original.has(path));
    };
    return { ...places, isThere };
  };

  it('tick next to nothing where the target is gone', () => {
    const { tried, ticked } = measure(() => null, 1200);
    expect(tried).to.be.greaterThan(500);
    // Ticked is then always wrong.
    expect(ticked / tried).to.be.at.most(0.01);
  });

  it('tick the right one in 99 of 100 where the target was renamed and moved', () => {
    const { tried, ticked, right } = measure(renamedPath, 1200);
    expect(tried).to.be.greaterThan(500);
    expect(ticked).to.be.greaterThan(25);
    expect(right / ticked, `${right} of ${ticked}, ${tried} tried`).to.be.at.least(0.99);
  });
});

/** `gb-eng.svg` becomes `art/new/gb_eng.svg`, and `wuson-2.png` `art/new/WusonV2.png`: another way to write the same parts. */
function renamedPath(path: string): string {
  const name = path.slice(path.lastIndexOf('/') + 1);
  const dot = name.lastIndexOf('.');
  const parts = name.slice(0, dot).split(/[-_ ]+/);
  const stem = parts.map((part) => part.slice(0, 1).toUpperCase() + part.slice(1)).join('');
  return `art/new/${path.slice(0, path.lastIndexOf('/') + 1).replaceAll('/', '_')}/${stem}${name.slice(dot)}`;
}

function filesOf(root: string): string[] {
  return readdirSync(root, { recursive: true, withFileTypes: true })
    .filter((item) => item.isFile())
    .map(({ parentPath, name }) => `${parentPath}/${name}`.slice(root.length + 1))
    .sort();
}
