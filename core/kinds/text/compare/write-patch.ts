import { stringify } from 'lossless-json';
import { createTwoFilesPatch } from 'diff';
import { parseJson } from '../../parse-json.ts';
import { jsonPatch } from './json-patch.ts';

/** A change of a text in a form that other programs apply. */
interface WrittenPatch {
  /** What its file is called after. */
  extension: 'patch.json' | 'diff';
  mediaType: string;
  text: string;
}

/**
 * JSON as a patch by RFC 6902, other texts in the unified form of `diff -u` that `patch` applies.
 * @throws ReadError where what says that it is JSON is none
 */
export function writePatch(
  format: string,
  old: { path: string; text: string },
  now: { path: string; text: string },
): WrittenPatch {
  if (format === 'json') {
    const operations = jsonPatch(parseJson(old.text), parseJson(now.text));
    return {
      extension: 'patch.json',
      mediaType: 'application/json-patch+json',
      // With all digits of long numbers.
      text: `${stringify(operations, null, 2) ?? ''}\n`,
    };
  }
  const text = createTwoFilesPatch(old.path, now.path, old.text, now.text, '', '', { context: 3 });
  return { extension: 'diff', mediaType: 'text/x-diff', text };
}
