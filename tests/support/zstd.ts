import { spawnSync } from 'node:child_process';

/** Bytes under Zstandard, by Debian's program. */
export function zstdCompressed(bytes: Uint8Array): Buffer {
  const { status, stdout, stderr } = spawnSync('zstd', ['-qc', '--content-size', '-'], { input: bytes });
  if (status !== 0) throw new Error(stderr.toString('utf8'));
  return stdout;
}
