import { randomUUID } from 'node:crypto';
import { rmSync } from 'node:fs';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { bulkLoad } from '../platform/database/bulk-load.ts';
import type { Pool } from '../platform/database/pool.ts';
import { change, select, type Value } from '../platform/database/rows.ts';
import { NotFoundError } from '../platform/plain-error.ts';
import { checkContents } from './check.ts';
import type { BrokenContent, ContentStore, ContentWriter, NewContent } from './content-store.ts';
import { contentsTable } from './contents-table.ts';
import { findDerivative, noteDerivative, type Derivation } from './derivatives.ts';
import { hashOf } from './hash.ts';
import { largeFile, placeFile } from './layout.ts';
import { readLocal, type LocalContent } from './local-content.ts';
import { forgetContent, mendStore } from './mend.ts';
import { temporaryName } from './temporary-name.ts';
import { largeContentBytes } from './large-content.ts';
import { ownerName } from '../platform/process-mark.ts';
import { PackWriter, keepLargeFile, syncLargeFile } from './pack-writer.ts';
import type { RemoteCopies } from './remote-copies.ts';
import { findStrays } from './strays.ts';
import { filesOfFolder, type StoredFiles } from './stored-files.ts';
import { tidyPacks } from './tidy.ts';

interface PlaceRow {
  hash: Buffer;
  size: number;
  packId: number;
  packOffset: number;
}

/**
 * Contents in packs and files of one folder, which all machines that work on it see; or in an object store, of which each machine
 * has copies in a folder of its own.
 */
export class PackStore implements ContentStore {
  private readonly pool: Pool;
  private readonly folder: string;
  private readonly remote: RemoteCopies | null;
  private readonly packs: PackWriter;
  private putting: Promise<void> = Promise.resolve();

  constructor(pool: Pool, folder: string, remote: RemoteCopies | null = null) {
    this.pool = pool;
    this.folder = folder;
    this.remote = remote;
    this.packs = new PackWriter(folder, remote);
  }

  async ensureLocal(hashes: readonly string[]): Promise<Map<string, LocalContent>> {
    const contents = new Map<string, LocalContent>();
    for (let from = 0; from < hashes.length; from += 1000) {
      const rows = await select<PlaceRow>(
        this.pool,
        'SELECT hash, size, pack_id AS packId, pack_offset AS packOffset FROM contents WHERE hash IN (?)',
        [hashes.slice(from, from + 1000).map((hash) => Buffer.from(hash, 'hex'))],
      );
      const places = rows.map((row) => ({ ...row, hash: row.hash.toString('hex') }));
      if (this.remote)
        for (const [hash, content] of await this.remote.bring(places)) contents.set(hash, content);
      else
        for (const { hash, size, packId, packOffset } of places)
          contents.set(hash, {
            hash,
            size,
            file: placeFile(this.folder, { hash, packId }),
            offset: packOffset,
          });
    }
    return contents;
  }

  async getLocal(hash: string): Promise<LocalContent> {
    const content = (await this.ensureLocal([hash])).get(hash);
    if (!content) throw new NotFoundError(`The store holds no content ${hash}.`);
    return content;
  }

  async read(hash: string): Promise<Buffer> {
    return readLocal(await this.getLocal(hash));
  }

  /** One after the other: a pack has one end. */
  putMany(contents: Iterable<NewContent>): Promise<void> {
    const list = [...contents];
    const putting = this.putting.then(() => this.put(list));
    this.putting = putting.catch(() => undefined);
    return putting;
  }

  private async put(contents: readonly NewContent[]): Promise<void> {
    const byHash = new Map(contents.map((content) => [content.hash.toString('hex'), content]));
    const known = await this.ensureLocal([...byHash.keys()]);
    const fresh = [...byHash].filter(([hash]) => !known.has(hash)).map(([, content]) => content);
    if (fresh.length === 0) return;
    const isLarge = ({ bytes }: NewContent): boolean => bytes.length > largeContentBytes;
    const small = fresh.filter((content) => !isLarge(content));
    const rows = await appendTo(this.packs, this.pool, small, 0);
    for (const content of fresh.filter(isLarge)) rows.push(await this.putFile(content));
    await bulkLoad(this.pool, contentsTable, rows);
  }

  /** Written beside first: it is whole, or not there. @returns its row */
  private async putFile({ hash, bytes }: NewContent): Promise<Value[]> {
    const folder = join(this.folder, 'temporary');
    await mkdir(folder, { recursive: true });
    const fresh = join(folder, temporaryName(ownerName(), randomUUID()));
    try {
      await writeFile(fresh, bytes, { mode: 0o600 });
      keepLargeFile(this.folder, fresh, hash.toString('hex'));
    } finally {
      await rm(fresh, { force: true });
    }
    await this.syncLarge(hash);
    return [hash, bytes.length, 0, 0, 0];
  }

  private async syncLarge(hash: Buffer): Promise<void> {
    await syncLargeFile(this.folder, hash.toString('hex'));
    await this.remote?.putLarge(hash.toString('hex'));
  }

  async forget(hashes: readonly Buffer[]): Promise<void> {
    for (const hash of hashes) await forgetContent(this.pool, hash);
  }

  async delete(hashes: readonly Buffer[]): Promise<number> {
    if (hashes.length === 0) return 0;
    const large = await select<{ hash: Buffer; size: number }>(
      this.pool,
      'SELECT hash, size FROM contents WHERE hash IN (?) AND pack_id = 0',
      [hashes],
    );
    await change(this.pool, 'DELETE FROM contents WHERE hash IN (?)', [hashes]);
    for (const { hash } of large)
      if (this.remote) await this.remote.removeLarge(hash.toString('hex'));
      else rmSync(largeFile(this.folder, hash.toString('hex')), { force: true });
    return large.reduce((sum, { size }) => sum + size, 0);
  }

  async tidy(signal: AbortSignal): Promise<number> {
    const { packs } = await this.files();
    return tidyPacks(this.pool, { store: this.folder, remote: this.remote, sizes: packs }, signal);
  }

  mend(): Promise<void> {
    return mendStore(this.pool, this.folder, this.remote);
  }

  check(signal: AbortSignal, onChecked: (bytes: number) => void): Promise<BrokenContent[]> {
    return checkContents(this.pool, this.folder, this.remote, signal, onChecked);
  }

  async strays(): Promise<{ count: number; bytes: number }> {
    return findStrays(this.pool, await this.files());
  }

  private async files(): Promise<StoredFiles> {
    return this.remote ? this.remote.files() : filesOfFolder(this.folder);
  }

  async getDerivative(derivation: Derivation): Promise<LocalContent | null> {
    const hash = await findDerivative(this.pool, derivation);
    return hash === null ? null : ((await this.ensureLocal([hash])).get(hash) ?? null);
  }

  async putDerivative(derivation: Derivation, bytes: Uint8Array): Promise<void> {
    const hash = hashOf(bytes);
    // The row first: what it names is not freed, not even by a job that frees contents at this moment.
    await noteDerivative(this.pool, derivation, hash);
    await this.putMany([{ hash, bytes }]);
  }

  openWriter(): ContentWriter {
    const packs = new PackWriter(this.folder, this.remote);
    return {
      append: (contents, jobId) => appendTo(packs, this.pool, contents, jobId),
      keepFile: (path, hash) => keepLargeFile(this.folder, path, hash.toString('hex')),
      sync: async (contents, jobId) => {
        await Promise.all(contents.map(({ hash }) => this.syncLarge(hash)));
        return contents.map(({ hash, size }) => [hash, size, 0, 0, jobId]);
      },
      seal: () => packs.seal(this.pool),
    };
  }

  close(): Promise<void> {
    const closing = this.putting.then(() => this.packs.seal(this.pool));
    this.putting = closing.catch(() => undefined);
    return closing;
  }
}

async function appendTo(
  packs: PackWriter,
  pool: Pool,
  contents: readonly NewContent[],
  jobId: number,
): Promise<Value[][]> {
  const places = await packs.append(pool, contents);
  return places.map(({ hash, size, packId, packOffset }) => [
    Buffer.from(hash, 'hex'),
    size,
    packId,
    packOffset,
    jobId,
  ]);
}
