import type { EditionAsset, AssetSource } from '../../../contract/editions.ts';
import { findBuild, type PlacedBuild } from '../../acquire/builds/builds.ts';
import type { ReadServices } from '../../decode/read-job.ts';
import type { OnDemandReaders } from '../../decode/on-demand.ts';
import { showAsset } from '../../library/assets/show-asset.ts';
import type { DescribeFile } from '../../decode/operations.ts';
import type { JobContext } from '../../jobs/define-job.ts';
import { messageOf } from '../../platform/plain-error.ts';
import { fileName } from './file-name.ts';
import type { SiteFolder } from './site-folder.ts';

/** What every browser shows as it is. */
const shownAsTheyAre = new Set([
  'png',
  'jpeg',
  'webp',
  'gif',
  'svg',
  'glb',
  'wav',
  'ogg',
  'mp3',
  'flac',
  'opus',
]);
const shownKinds = new Set(['picture', 'model', 'sound', 'clip']);
const extensions: Readonly<Record<string, string>> = {
  'model/gltf-binary': 'glb',
  'image/png': 'png',
  'image/webp': 'webp',
  'audio/wav': 'wav',
  'audio/ogg': 'ogg',
  'audio/flac': 'flac',
};

type Context = Pick<JobContext<unknown, ReadServices>, 'pool' | 'folder' | 'store' | 'services'>;

interface Surroundings {
  describe: DescribeFile;
  findFile: ReturnType<ReadServices['findFileIn']>;
}

/** Writes the files that show assets: a small picture, and a form that browsers show. */
export class AssetFiles {
  private readonly builds = new Map<string, Promise<Surroundings>>();

  constructor(
    private readonly context: Context,
    private readonly readers: Pick<OnDemandReaders, 'show'>,
    private readonly site: SiteFolder,
    private readonly tell: (path: string, reason: string) => void,
  ) {}

  /** @returns the asset with the address of its shown form; null where it has none */
  async write(asset: EditionAsset, source: AssetSource, channelId: number): Promise<EditionAsset> {
    const { store } = this.context;
    if (asset.preview !== null && source.previewHash !== null && !this.site.keep(asset.preview))
      await this.site.put(asset.preview, await store.read(source.previewHash));
    return { ...asset, shown: await this.writeShown(asset, source, channelId) };
  }

  private async writeShown(
    asset: EditionAsset,
    { hash }: AssetSource,
    channelId: number,
  ): Promise<string | null> {
    if (!shownKinds.has(asset.kind)) return null;
    const name = fileName(asset.path.slice(asset.path.lastIndexOf('/') + 1));
    // An asset that is the same has the same preview; one that looks otherwise, by its textures, has another.
    const key = hash.slice(0, 16) + (asset.preview?.slice('previews/'.length, 'previews/'.length + 8) ?? '');
    const begin = `files/${key.slice(0, 2)}/${key}-`;
    if (shownAsTheyAre.has(asset.format)) {
      const path = begin + name;
      if (!this.site.keep(path)) await this.site.put(path, await this.context.store.read(hash));
      return path;
    }
    for (const extension of new Set(Object.values(extensions))) {
      const path = begin + withExtension(name, extension);
      if (this.site.keep(path)) return path;
    }
    try {
      const { mediaType, bytes } = await this.show(asset, hash, channelId);
      const path = begin + withExtension(name, extensions[mediaType] ?? 'bin');
      await this.site.put(path, bytes);
      return path;
    } catch (error) {
      this.tell(asset.path, messageOf(error));
      return null;
    }
  }

  private async show(
    { path, format, build }: EditionAsset,
    hash: string,
    channelId: number,
  ): ReturnType<typeof showAsset> {
    const { describe, findFile } = await this.surroundings(channelId, build);
    const services = { store: this.context.store, readers: this.readers, findFile, describe };
    return showAsset(services, { path, format, hash }, {});
  }

  private surroundings(channelId: number, label: string): Promise<Surroundings> {
    const key = `${channelId} ${label}`;
    const known = this.builds.get(key);
    if (known) return known;
    const { pool, services } = this.context;
    const making = (async () => {
      const build: PlacedBuild = await findBuild(pool, channelId, label);
      return {
        describe: await services.descriptionsOf(this.context, build),
        findFile: services.findFileIn(pool, build),
      };
    })();
    this.builds.set(key, making);
    return making;
  }
}

function withExtension(name: string, extension: string): string {
  return `${name.replace(/\.[^.]*$/, '')}.${extension}`;
}
