import type { Folder } from '../../contract/assets.ts';
import { containerMark } from '../../core/containers/entry-name.ts';
import type { PlacedBuild } from '../builds/builds.ts';
import { select, type Queryable } from '../database/rows.ts';
import { role } from '../builds/spans.ts';

export interface ListedAsset {
  path: string;
  format: string;
  size: number | null;
  hash: string | null;
}

/** Everything in one build, sorted by path, kept in memory while people look through it. */
export class BuildListing {
  readonly assets: readonly ListedAsset[];
  private readonly containers: ReadonlySet<string>;

  constructor(assets: readonly ListedAsset[], containers: ReadonlySet<string>) {
    this.assets = assets;
    this.containers = containers;
  }

  find(path: string): ListedAsset | null {
    const asset = this.assets[this.firstFrom(path)];
    return asset?.path === path ? asset : null;
  }

  /** What lies directly in a folder or container; `path` is empty for the root. */
  folder(path: string): Omit<Folder, 'assets' | 'total'> & { assets: ListedAsset[] } {
    const prefix = path === '' ? '' : this.containers.has(path) ? path + containerMark : `${path}/`;
    const folders = new Map<string, Folder['folders'][number]>();
    const assets: ListedAsset[] = [];
    for (let index = this.firstFrom(prefix); index < this.assets.length; index++) {
      const asset = this.assets[index];
      if (!asset?.path.startsWith(prefix)) break;
      const rest = asset.path.slice(prefix.length);
      const slash = rest.indexOf('/');
      if (slash < 0) {
        assets.push(asset);
        continue;
      }
      const isContainer = rest[slash - 1] === '!' && this.containers.has(prefix + rest.slice(0, slash - 1));
      const name = rest.slice(0, isContainer ? slash - 1 : slash);
      const folder = folders.get(name) ?? { name, path: prefix + name, files: 0, bytes: 0, isContainer };
      folder.files++;
      folder.bytes += asset.size ?? 0;
      folders.set(name, folder);
    }
    return { path, folders: [...folders.values()], assets };
  }

  /**
   * The asset that a definition or a map means: exactly, with an extension added, beside the one that names it,
   * or by the end of its path.
   */
  resolve(reference: string, from: string, extensions: readonly string[]): ListedAsset | null {
    const name = reference.replaceAll('\\', '/').replace(/^\.?\//, '');
    const beside = from.includes('/') ? from.slice(0, from.lastIndexOf('/') + 1) : '';
    const endings = ['', ...extensions.map((extension) => `.${extension}`)];
    for (const base of [name, beside + name]) {
      for (const ending of endings) {
        const found = this.find(base + ending);
        if (found) return found;
      }
    }
    return (
      this.assets.find(({ path }) => endings.some((ending) => path.endsWith(`/${name}${ending}`))) ?? null
    );
  }

  private firstFrom(path: string): number {
    let low = 0;
    let high = this.assets.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if ((this.assets[middle]?.path ?? '') < path) low = middle + 1;
      else high = middle;
    }
    return low;
  }
}

const kept = 3;

/** The listings of the builds that were looked at last. */
export class BuildListings {
  private readonly database: Queryable;
  private readonly listings = new Map<string, Promise<BuildListing>>();

  constructor(database: Queryable) {
    this.database = database;
  }

  async of(build: PlacedBuild): Promise<BuildListing> {
    const key = `${build.id} ${build.indexedAt ?? ''}`;
    const listing = this.listings.get(key) ?? loadListing(this.database, build);
    this.listings.delete(key);
    this.listings.set(key, listing);
    for (const oldest of this.listings.keys()) {
      if (this.listings.size <= kept) break;
      this.listings.delete(oldest);
    }
    try {
      return await listing;
    } catch (error) {
      this.listings.delete(key);
      throw error;
    }
  }
}

async function loadListing(database: Queryable, build: PlacedBuild): Promise<BuildListing> {
  const rows = await select<{
    path: string;
    role: number;
    format: string;
    size: number | null;
    hash: Buffer | null;
  }>(
    database,
    `SELECT p.path, s.role, s.format, s.size, s.hash FROM asset_spans s JOIN paths p ON p.digest = s.path_digest
      WHERE s.channel_id = ? AND s.first_sequence <= ? AND s.last_sequence >= ?`,
    [build.channelId, build.sequence, build.sequence],
  );
  const containers = new Set(rows.filter((row) => row.role === role.container).map((row) => row.path));
  const assets = rows
    .filter((row) => row.role === role.file)
    .map(({ path, format, size, hash }) => ({ path, format, size, hash: hash?.toString('hex') ?? null }))
    .sort((a, b) => (a.path < b.path ? -1 : 1));
  return new BuildListing(assets, containers);
}
