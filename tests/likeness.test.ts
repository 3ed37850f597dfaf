import { expect } from 'chai';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  Editor,
  openCollections,
  samplesOf,
  type Collection,
  type Sample,
} from '../bench/likeness/collection.ts';
import type { Kind } from '../contract/kinds.ts';
import { leastScore, pairByLikeness, type LikenessItem } from '../core/findings/likeness/pair.ts';
import { readBytes } from './support/read.ts';

/**
 * What was renamed and changed at once, in open material: pictures of @pmndrs/assets (CC0), sounds of Debian's
 * `sonic-pi-samples` (CC0), models of Debian's `assimp-testmodels`; edited by Pillow and sox.
 */
describe('Likeness in open material', () => {
  const work = mkdtempSync(join(tmpdir(), 'worvel-likeness-'));
  const editor = new Editor();
  let collections: Collection[] = [];
  const collection = (name: string): Collection => {
    const found = collections.find((one) => one.name === name);
    if (!found) throw new Error(`There is no ${name}.`);
    return found;
  };

  before(() => {
    collections = openCollections(work, 400);
  });
  after(() => {
    editor.close();
    rmSync(work, { recursive: true, force: true });
  });

  /** Each of some files as it was, and edited under a name of which nothing is left; others are gone or new. */
  async function pairs(
    kind: Kind,
    { folder, paths }: Collection,
    ending: string,
    edit: string,
  ): Promise<{ right: number; wrong: number }> {
    const files = paths.filter((path) => path.endsWith(ending)).slice(0, 24);
    const item = async (path: string, file: string): Promise<LikenessItem> => {
      const bytes = new Uint8Array(readFileSync(file));
      const { signature } = await readBytes(bytes, file);
      return { path, kind, size: bytes.length, signature };
    };
    const [gone, fresh]: LikenessItem[][] = [[], []];
    const to = join(work, kind === 'picture' ? 'edited.png' : 'edited.wav');
    for (const [at, path] of files.entries()) {
      const file = join(folder, path);
      if (at % 4 === 1) fresh?.push(await item(`new/${path}`, file));
      if (at % 2 === 0) gone?.push(await item(path, file));
      if (at % 4 !== 0) continue;
      expect(await editor.edit(kind, file, to, at, edit)).to.equal(edit);
      fresh?.push(await item(`new/${'abcdefghijklmnopqrstuvwx'.charAt(at).repeat(5)}${ending}`, to));
    }
    const found = pairByLikeness(gone ?? [], fresh ?? []);
    const right = found.filter(({ path, oldPath }) => {
      const at = 'abcdefghijklmnopqrstuvwx'.indexOf(path.charAt(4));
      return files[at] === oldPath && /^new\/(.)\1{4}\./.test(path);
    }).length;
    return { right, wrong: found.length - right };
  }

  it('knows a sound of which a share was appended, in front or behind, by any name', async () => {
    for (const edit of ['silence appended', 'repeated in part', 'end cut off']) {
      const { right, wrong } = await pairs('sound', collection('sonic-pi-samples'), '.flac', edit);
      expect(wrong, edit).to.equal(0);
      expect(right, edit).to.be.at.least(5);
    }
  });

  it('knows a picture on which a mark was drawn, or whose colours were turned, by any name', async () => {
    for (const edit of ['marked', 'recoloured', 'scaled']) {
      const { right, wrong } = await pairs('picture', collection('pmndrs-assets'), '.webp', edit);
      expect(wrong, edit).to.equal(0);
      expect(right, edit).to.be.at.least(4);
    }
  });

  it('knows models that were bent, cut or added to, and never takes unrelated ones for one another', async () => {
    const samples: Sample[] = [];
    const models = collection('assimp-testmodels');
    // Formats that are read quickly.
    const paths = models.paths.filter((path) => /\.(?:obj|stl|ply|glb|3ds|dae)$/i.test(path)).slice(0, 40);
    for await (const sample of samplesOf({ ...models, paths }, work))
      if (sample.kind === 'model') samples.push(sample);
    expect(samples.length).to.be.at.least(20);
    const item = (path: string, signature: Uint8Array): LikenessItem => ({
      path,
      kind: 'model',
      size: 1000,
      signature,
    });
    const isFresh = (at: number): boolean => at % 2 === 1;
    const gone = samples.filter((_, at) => !isFresh(at)).map(({ path, signature }) => item(path, signature));
    const strangers = samples
      .filter((_, at) => isFresh(at))
      .map(({ signature }, at) => item(`other/thing_${at}.obj`, signature));
    // The same shape in two formats or places is one thing, whatever a file is called.
    const shapes = new Set(gone.map(({ signature }) => String(signature?.subarray(0, 80))));
    const unlike = strangers.filter(({ signature }) => !shapes.has(String(signature?.subarray(0, 80))));
    expect(pairByLikeness(gone, unlike).map(({ oldPath, path }) => `${oldPath} ${path}`)).to.deep.equal([]);
    const edited = samples.flatMap(({ edited: now }, at) =>
      now && !isFresh(at) ? [item(`other/${samples[at]?.path ?? ''}`, now.signature)] : [],
    );
    const found = pairByLikeness(gone, edited);
    const right = found.filter(({ path, oldPath }) => path === `other/${oldPath}`);
    expect(found.length - right.length).to.equal(0);
    expect(right.length / edited.length).to.be.at.least(0.7);
    expect(right.every(({ score }) => score >= leastScore && score <= 1)).to.equal(true);
  });
});
