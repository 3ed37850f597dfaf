import { LRUCache } from 'lru-cache';
import { selectOne, type Queryable } from '../../platform/database/rows.ts';
import type { ContentStore } from '../../store/content-store.ts';

const mostKeptBytes = 64 * 1024 ** 2;

/** Small pictures of contents: contact sheets ask for hundreds at once, and the same ones again and again. */
export class SmallPictures {
  private readonly database: Queryable;
  private readonly store: Pick<ContentStore, 'read'>;
  private readonly kept = new LRUCache<string, Buffer>({
    maxSize: mostKeptBytes,
    sizeCalculation: ({ length }) => Math.max(1, length),
  });

  constructor(database: Queryable, store: Pick<ContentStore, 'read'>) {
    this.database = database;
    this.store = store;
  }

  /** The hash of the picture of a content as it was read last; null where there is none. */
  async hashOf(hash: string, format: string): Promise<string | null> {
    const row = await selectOne<{ previewHash: Buffer | null }>(
      this.database,
      'SELECT preview_hash AS previewHash FROM content_facts WHERE hash = ? AND format = ?',
      [Buffer.from(hash, 'hex'), format],
    );
    return row?.previewHash?.toString('hex') ?? null;
  }

  /** @throws NotFoundError, PlainError where the store has lost it */
  async read(previewHash: string): Promise<Buffer> {
    const known = this.kept.get(previewHash);
    if (known) return known;
    const bytes = await this.store.read(previewHash);
    this.kept.set(previewHash, bytes);
    return bytes;
  }
}
