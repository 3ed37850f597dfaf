import { readersVersion } from '../../core/kinds/read.ts';
import type { Pool } from '../platform/database/pool.ts';
import type { ContentStore } from '../store/content-store.ts';
import { hashOf } from '../store/hash.ts';
import type { LocalContent } from '../store/local-content.ts';
import { keepBones } from './bones.ts';
import { failedOutcome, type DescribeFile, type FactsOutcome } from './operations.ts';
import type { ReaderPool } from './reader-pool.ts';
import { keepReadings, type Resources } from './readings.ts';
import type { Unread } from './unread.ts';

/**
 * The one way from what a file names to the file that is meant, for reading, showing, comparing and publishing.
 * @returns its hash, or null where there is none
 */
export type FindFile = (from: string, reference: string) => Promise<string | null>;

/** What reading facts needs. */
export interface FactsSource {
  pool: Pool;
  store: ContentStore;
  readers: Pick<ReaderPool, 'run'>;
  /** Finds what files of the build name. */
  findFile: FindFile;
  /** What a team says of how files are built. */
  describe: DescribeFile;
}

/** What was found out about a content. */
export type ReadContent = FactsOutcome & Pick<Unread, 'hash' | 'format' | 'path'> & { resources: Resources };

/** Reads the facts of one content. @param content where it lies; undefined where the store has lost it */
export async function readFactsOf(
  { store, readers, findFile, describe }: FactsSource,
  { hash, format, path }: Pick<Unread, 'hash' | 'format' | 'path'>,
  content: LocalContent | undefined,
): Promise<ReadContent> {
  const resources: Resources = [];
  if (!content) return { ...failedOutcome.facts('the store has lost it'), hash, format, path, resources };
  const outcome = await readers.run(
    {
      type: 'facts',
      content: { path, format, content, ...describe(path, format) },
    },
    async (reference) => {
      const found = await findFile(path, reference);
      resources.push([reference, found]);
      return found === null ? null : ((await store.ensureLocal([found])).get(found) ?? null);
    },
  );
  return { ...outcome, hash, format, path, resources };
}

/** Writes down what was found out, and stores the previews. @param isNewest see `keepReadings` */
export async function keepFacts(
  pool: Pool,
  store: ContentStore,
  outcomes: readonly ReadContent[],
  isNewest = true,
): Promise<void> {
  const previews = new Map<string, { hash: Buffer; bytes: Uint8Array }>();
  const rows = outcomes.map(
    ({ hash, format, facts, reason, preview, resources, fingerprint, signature, mentions }) => {
      const previewHash = preview ? hashOf(preview) : null;
      if (preview && previewHash)
        previews.set(previewHash.toString('hex'), { hash: previewHash, bytes: preview });
      const values = [
        Buffer.from(hash, 'hex'),
        format,
        readersVersion,
        facts ? JSON.stringify(facts) : null,
        reason,
        previewHash,
        resources.length > 0 ? JSON.stringify(resources) : null,
        fingerprint && Buffer.from(fingerprint),
        signature && Buffer.from(signature),
        mentions.length > 0 ? JSON.stringify(mentions) : null,
      ];
      return { values, resources };
    },
  );
  await store.putMany(previews.values());
  await keepReadings(pool, rows, isNewest);
  await keepBones(pool, outcomes);
}
