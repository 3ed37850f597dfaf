import type { BulkTable } from '../platform/database/bulk-load.ts';

/** Rows of contents, as a writer of the store gives them. `job_id` 0: no job has to be resumed for them. */
export const contentsTable: BulkTable = {
  table: 'contents',
  columns: [
    { name: 'hash', binary: true },
    { name: 'size' },
    { name: 'pack_id' },
    { name: 'pack_offset' },
    { name: 'job_id' },
  ],
  onDuplicate: 'ignore',
};
