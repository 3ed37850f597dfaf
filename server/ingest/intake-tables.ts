import type { BulkTable } from '../platform/database/bulk-load.ts';

/** The tables that a job gathers in, as they are loaded in bulk. */
export const pathsTable: BulkTable = {
  table: 'paths',
  columns: [{ name: 'digest', binary: true }, { name: 'path' }],
  onDuplicate: 'ignore',
};
export const assetsTable: BulkTable = {
  table: 'intake_assets',
  columns: [
    { name: 'job_id' },
    { name: 'path_digest', binary: true },
    { name: 'unit_digest', binary: true },
    { name: 'role' },
    { name: 'format' },
    { name: 'by_extension' },
    { name: 'size' },
    { name: 'hash', binary: true },
    { name: 'target_digest', binary: true },
    { name: 'packed_hash', binary: true },
  ],
  onDuplicate: 'replace',
};
export const problemsTable: BulkTable = {
  table: 'intake_problems',
  columns: [
    { name: 'job_id' },
    { name: 'path_digest', binary: true },
    { name: 'unit_digest', binary: true },
    { name: 'reason' },
    { name: 'locked' },
  ],
  onDuplicate: 'replace',
};

export const sourcesTable: BulkTable = {
  table: 'intake_sources',
  columns: [{ name: 'job_id' }, { name: 'path_digest', binary: true }, { name: 'signature', binary: true }],
  onDuplicate: 'replace',
};
