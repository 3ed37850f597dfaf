import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import type { MadeFile } from '../../core/kinds/writing.ts';
import { hashOf } from '../store/hash.ts';
import type { StagedFile } from './operations.ts';

/** Writes files that were made to where they wait for their places. @param prefix a path that their names go on from */
export function stage(files: readonly MadeFile[], prefix: string): StagedFile[] {
  return files.map(({ ending, bytes }, at) => {
    const file = `${prefix}-${at}.part`;
    writeFileSync(file, bytes);
    return {
      ...{ ending, file, bytes: bytes.length },
      sha256: createHash('sha256').update(bytes).digest('hex'),
      blake3: hashOf(bytes).toString('hex'),
    };
  });
}
