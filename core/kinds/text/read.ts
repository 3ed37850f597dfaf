import { extensionOf } from '../formats.ts';
import { ReadError, type Reader } from '../reading.ts';
import { decodeText } from './decode.ts';

const excerptLines = 14;
const excerptColumns = 120;
/** A text above this is told by its first bytes alone. */
const maximumBytes = 32 * 1024 * 1024;

export const readText: Reader = async ({ bytes, path }) => {
  const { text, encoding } = decodeText(bytes.subarray(0, maximumBytes));
  const lines = text.split(/\r\n|\r|\n/);
  if (lines.at(-1) === '') lines.pop();
  return {
    facts: {
      kind: 'text',
      lines: lines.length,
      encoding,
      values: countValues(text, lines, extensionOf(path)),
      excerpt: lines
        .slice(0, excerptLines)
        .map((line) => line.slice(0, excerptColumns))
        .join('\n'),
    },
    preview: null,
  };
};

function countValues(text: string, lines: string[], extension: string): number | null {
  switch (extension) {
    case 'json':
      return countLeaves(parseJson(text));
    case 'csv':
    case 'tsv':
      return Math.max(0, lines.filter((line) => line.trim() !== '').length - 1);
    case 'ini':
    case 'cfg':
    case 'conf':
      return lines.filter((line) => /^\s*[^;#[\s][^=]*=/.test(line)).length;
    default:
      return null;
  }
}

/** @throws ReadError that names the line and column where the JSON breaks off */
export function parseJson(text: string): unknown {
  try {
    return JSON.parse(text.replace(/^\ufeff/, ''));
  } catch (error) {
    const message = error instanceof Error ? error.message : String(error);
    const position = Number(/position (\d+)/.exec(message)?.[1] ?? text.length);
    const before = text.slice(0, position).split('\n');
    throw new ReadError(
      `this is not valid JSON: it breaks at line ${before.length}, column ${(before.at(-1)?.length ?? 0) + 1}`,
    );
  }
}

function countLeaves(root: unknown): number {
  let count = 0;
  const stack: unknown[] = [root];
  while (stack.length > 0) {
    const value = stack.pop();
    if (Array.isArray(value)) for (const item of value) stack.push(item);
    else if (typeof value === 'object' && value !== null) for (const item of Object.values(value)) stack.push(item);
    else count++;
  }
  return count;
}
