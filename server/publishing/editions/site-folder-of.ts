import { join } from 'node:path';

/** Where sites of a title lie unless somebody says: the edition, and what is only looked at. */
export function siteFolderOf(dataRoot: string, titleId: number, isPreview: boolean): string {
  return join(dataRoot, 'published', String(titleId), isPreview ? 'preview' : 'site');
}
