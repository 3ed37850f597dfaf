import type { NamedBones } from '../../core/kinds/model/pose/bone-names.ts';
import { bulkLoad, type BulkTable } from '../platform/database/bulk-load.ts';
import type { Queryable } from '../platform/database/rows.ts';
import { digestOf } from '../store/hash.ts';

const lists: BulkTable = {
  table: 'bone_lists',
  columns: [{ name: 'digest', binary: true }, { name: 'names' }],
  onDuplicate: 'ignore',
};

const uses: BulkTable = {
  table: 'content_bones',
  columns: [
    { name: 'hash', binary: true },
    { name: 'format' },
    { name: 'digest', binary: true },
    { name: 'is_moved' },
    { name: 'clips' },
  ],
  onDuplicate: 'replace',
};

/** Keeps the bones of what was read, and those that its clips move, so that the ones are found by the others. */
export async function keepBones(
  database: Queryable,
  contents: readonly { hash: string; format: string; bones: readonly NamedBones[] }[],
): Promise<void> {
  const known = new Map<string, [Buffer, string]>();
  const rows = contents.flatMap(({ hash, format, bones }) =>
    bones.map(({ clips, names }) => {
      const text = JSON.stringify(names);
      const digest = digestOf(text);
      known.set(digest.toString('hex'), [digest, text]);
      return [
        ...[Buffer.from(hash, 'hex'), format, digest],
        ...[clips ? 1 : 0, clips ? JSON.stringify(clips) : null],
      ];
    }),
  );
  await bulkLoad(database, lists, [...known.values()]);
  await bulkLoad(database, uses, rows);
}
