import { randomUUID } from 'node:crypto';
import { mkdirSync, renameSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { basename, dirname, join } from 'node:path';
import { NotFoundError } from '../platform/plain-error.ts';
import { ownerName } from '../platform/process-mark.ts';
import { LocalCache } from './local-cache.ts';
import { largeFile, packFile, placeFile, type ContentPlace } from './layout.ts';
import type { LocalContent } from './local-content.ts';
import type { RemoteFiles } from './remote-files.ts';
import { packNumber, type StoredFiles } from './stored-files.ts';
import { temporaryName } from './temporary-name.ts';

/** Of a pack of which so much is wanted at once, all is fetched: one long answer is quicker than many short ones. */
const wholeFromContents = 4;
const wholeFromBytes = 1024 * 1024;
const atOnce = 8;

/**
 * Packs and large contents that lie in an object store, with copies on this machine. What is written is put there before anybody
 * is told where it lies; what is read is fetched once, and stays as long as there is room.
 */
export class RemoteCopies {
  private readonly remote: RemoteFiles;
  private readonly folder: string;
  private readonly cache: LocalCache;
  private readonly fetching = new Map<string, Promise<void>>();

  /** @param folder of the copies @param mostBytes that they may take */
  constructor(remote: RemoteFiles, folder: string, mostBytes: number) {
    this.remote = remote;
    this.folder = folder;
    this.cache = new LocalCache(
      [join(folder, 'packs'), join(folder, 'large'), join(folder, 'parts')],
      mostBytes,
    );
  }

  /** Puts a pack there that lies on this machine. */
  async putPack(packId: number): Promise<void> {
    await this.put(packFile(this.folder, packId));
  }

  async putLarge(hash: string): Promise<void> {
    await this.put(largeFile(this.folder, hash));
  }

  /**
   * Makes contents readable on this machine. What the store has lost is left out.
   * @param isAll whether all of their packs will be wanted, however little is now
   */
  async bring(places: readonly ContentPlace[], isAll = false): Promise<Map<string, LocalContent>> {
    const contents = new Map<string, LocalContent>();
    const byFile = new Map<string, ContentPlace[]>();
    for (const place of places) {
      const file = placeFile(this.folder, place);
      const list = byFile.get(file);
      if (list) list.push(place);
      else byFile.set(file, [place]);
    }
    const work: (() => Promise<void>)[] = [];
    for (const [file, wanted] of byFile) {
      const take = (): void => {
        for (const { hash, size, packOffset } of wanted)
          contents.set(hash, { hash, size, file, offset: packOffset });
      };
      const bytes = wanted.reduce((sum, { size }) => sum + size, 0);
      const isWhole =
        isAll || wanted[0]?.packId === 0 || wanted.length >= wholeFromContents || bytes >= wholeFromBytes;
      if (this.cache.has(file)) take();
      else if (isWhole) work.push(() => this.fetchFile(file).then(take));
      else
        for (const place of wanted)
          work.push(() => this.fetchPart(place).then((part) => void contents.set(place.hash, part)));
    }
    await runAll(work);
    return contents;
  }

  /** All that lies there. */
  async files(): Promise<StoredFiles> {
    const files: StoredFiles = { packs: new Map(), large: new Map() };
    for await (const { name, bytes } of this.remote.list('packs/')) files.packs.set(packNumber(name), bytes);
    for await (const { name, bytes } of this.remote.list('large/')) files.large.set(basename(name), bytes);
    return files;
  }

  async removePack(packId: number): Promise<void> {
    await this.remove(packFile(this.folder, packId));
  }

  async removeLarge(hash: string): Promise<void> {
    await this.remove(largeFile(this.folder, hash));
  }

  /** Takes the copy of a pack away, so that the next reader gets what lies there. */
  forgetCopy(place: ContentPlace): void {
    rmSync(placeFile(this.folder, place), { force: true });
    rmSync(this.partFile(place.hash), { force: true });
  }

  private nameOf(file: string): string {
    return file.slice(this.folder.length + 1);
  }

  private async put(file: string): Promise<void> {
    await this.remote.put(this.nameOf(file), file);
    this.cache.added(statSync(file).size);
  }

  private async remove(file: string): Promise<void> {
    await this.remote.remove(this.nameOf(file));
    rmSync(file, { force: true });
  }

  private partFile(hash: string): string {
    return join(this.folder, 'parts', hash.slice(0, 2), hash);
  }

  private async fetchFile(file: string): Promise<void> {
    await this.once(file, (fresh) => this.remote.fetch(this.nameOf(file), fresh));
  }

  private async fetchPart(place: ContentPlace): Promise<LocalContent> {
    const { hash, size, packOffset } = place;
    const file = this.partFile(hash);
    if (!this.cache.has(file))
      await this.once(file, async (fresh) =>
        writeFileSync(
          fresh,
          await this.remote.fetchPart(this.nameOf(placeFile(this.folder, place)), packOffset, size),
          { mode: 0o600 },
        ),
      );
    return { hash, size, file, offset: 0 };
  }

  /** Makes a copy, once however many want it. It is whole, or not there. */
  private once(file: string, write: (fresh: string) => Promise<void>): Promise<void> {
    const known = this.fetching.get(file);
    if (known) return known;
    const fetching = this.make(file, write).finally(() => this.fetching.delete(file));
    this.fetching.set(file, fetching);
    return fetching;
  }

  private async make(file: string, write: (fresh: string) => Promise<void>): Promise<void> {
    const folder = join(this.folder, 'temporary');
    mkdirSync(folder, { recursive: true });
    mkdirSync(dirname(file), { recursive: true });
    const fresh = join(folder, temporaryName(ownerName(), randomUUID()));
    try {
      await write(fresh);
      const { size } = statSync(fresh);
      renameSync(fresh, file);
      this.cache.added(size);
    } finally {
      rmSync(fresh, { force: true });
    }
  }
}

/** Some at a time. What is not there is no failure of the others: it is left out. */
async function runAll(work: readonly (() => Promise<void>)[]): Promise<void> {
  const queue = [...work];
  const run = async (): Promise<void> => {
    for (let next = queue.shift(); next; next = queue.shift())
      await next().catch((error: unknown) => {
        if (!(error instanceof NotFoundError)) throw error;
      });
  };
  await Promise.all(Array.from({ length: Math.min(atOnce, queue.length) }, run));
}
