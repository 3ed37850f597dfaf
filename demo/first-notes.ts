import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type * as z from 'zod';
import { noteFilesSchema } from '../contract/notes.ts';

/**
 * Ten notes that the demo's title begins with. Their sums are those of files that the product wrote: whoever changes how it
 * writes them runs the notes again with `--keep`.
 * @param root folder of the application
 */
export function firstNotes(root: string): z.infer<typeof noteFilesSchema> {
  const text = readFileSync(join(root, 'demo', 'first-notes.json'), 'utf8');
  return noteFilesSchema.parse(JSON.parse(text));
}
