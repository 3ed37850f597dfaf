import { extensionOf } from '../formats.ts';
import { ReadError, readingOf, type Reader } from '../reading.ts';
import { decodeText } from './decode.ts';

const excerptLines = 14;
const excerptColumns = 120;
/** A text above this is told by its first bytes alone. */
const maximumBytes = 32 * 1024 * 1024;

export const readText: Reader = async ({ bytes, path }) => {
  const { text, encoding } = decodeText(bytes.subarray(0, maximumBytes));
  return readingOf({
    kind: 'text',
    lines: countLines(text),
    encoding,
    values: countValues(text, extensionOf(path)),
    excerpt: text
      .slice(0, excerptLines * excerptColumns * 2)
      .split(/\r\n|\r|\n/, excerptLines)
      .map((line) => line.slice(0, excerptColumns))
      .join('\n'),
  });
};

/** Lines end with a line feed, a carriage return, or both; what follows the last end is a line too. */
function countLines(text: string): number {
  let lines = 0;
  let at = 0;
  const hasReturns = text.includes('\r');
  for (let end = nextEnd(text, 0, hasReturns); end >= 0; end = nextEnd(text, at, hasReturns)) {
    lines++;
    at = text[end] === '\r' && text[end + 1] === '\n' ? end + 2 : end + 1;
  }
  return at < text.length ? lines + 1 : lines;
}

function nextEnd(text: string, from: number, hasReturns: boolean): number {
  const feed = text.indexOf('\n', from);
  if (!hasReturns) return feed;
  const carriage = text.indexOf('\r', from);
  return carriage < 0 || (feed >= 0 && feed < carriage) ? feed : carriage;
}

function countValues(text: string, extension: string): number | null {
  switch (extension) {
    case 'json':
      return countLeaves(parseJson(text));
    case 'csv':
    case 'tsv':
      // The first row names the columns.
      return Math.max(0, countFilledLines(text) - 1);
    case 'ini':
    case 'cfg':
    case 'conf':
      return text.match(/^[ \t]*[^;#[\s][^=\r\n]*=/gm)?.length ?? 0;
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

/** Lines with something on them besides spaces and tabs. */
function countFilledLines(text: string): number {
  let count = 0;
  let isFilled = false;
  for (let at = 0; at < text.length; at++) {
    const code = text.charCodeAt(at);
    if (code === 10 || code === 13) isFilled = false;
    else if (!isFilled && code !== 32 && code !== 9) {
      isFilled = true;
      count++;
    }
  }
  return count;
}

function countLeaves(root: unknown): number {
  if (typeof root !== 'object' || root === null) return 1;
  let count = 0;
  // Only what holds others goes onto the stack: most values do not.
  const stack: object[] = [root];
  for (let holder = stack.pop(); holder !== undefined; holder = stack.pop()) {
    const values: unknown[] = Array.isArray(holder) ? holder : Object.values(holder);
    for (const value of values) {
      if (typeof value === 'object' && value !== null) stack.push(value);
      else count++;
    }
  }
  return count;
}
