import { LRUCache } from 'lru-cache';
import { openSheet, type OpenSheet } from '../../core/formats/open-sheet.ts';
import { PlainError } from '../platform/plain-error.ts';

/** Opening one looks through all of it, which takes milliseconds: each is opened once a thread or process. */
const opened = new LRUCache<string, ReturnType<typeof openSheet>>({ max: 200 });

/** A sheet by its text. @throws PlainError that names the lines where it cannot be used */
export function openedSheet(text: string): OpenSheet {
  let known = opened.get(text);
  if (!known) opened.set(text, (known = openSheet(text)));
  if ('sheet' in known) return known.sheet;
  const lines = known.problems.slice(0, 20).map(({ line, message }) => `line ${line}: ${message}`);
  throw new PlainError(`This sheet cannot be used: ${lines.join('; ')}.`);
}
