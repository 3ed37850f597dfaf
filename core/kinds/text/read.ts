import { identify } from '../identify.ts';
import { isReadError, readingOf, type Reader } from '../reading.ts';
import { decodeText } from './decode.ts';
import { languageOfPath } from './language.ts';
import { textSignature } from './signature.ts';
import { summaryOfValues, type ValuesSummary } from './values.ts';

const excerptLines = 14;
const excerptColumns = 120;
/** A text above this is told by its first bytes alone. */
const maximumBytes = 32 * 1024 * 1024;

export const readText: Reader = async ({ bytes, path }) => {
  const { text, encoding } = decodeText(bytes.subarray(0, maximumBytes));
  let found: ValuesSummary | null = null;
  let damage: string | null = null;
  try {
    found = await summaryOfValues(text, identify(bytes.subarray(0, 1024), path).format);
  } catch (error) {
    if (!isReadError(error)) throw error;
    damage = error.message;
  }
  return readingOf(
    {
      kind: 'text',
      lines: countLines(text),
      encoding,
      values: found?.count ?? null,
      language: found?.language ?? languageOfPath(path),
      excerpt: text
        .slice(0, excerptLines * excerptColumns * 2)
        .split(/\r\n|\r|\n/, excerptLines)
        .map((line) => line.slice(0, excerptColumns))
        .join('\n'),
    },
    {
      // Ends of lines and, where they say nothing, order and spacing do not count.
      decoded: damage === null && bytes.length <= maximumBytes ? decodedText(text, found) : null,
      signature: textSignature(text),
      mentions: found?.mentions ?? [],
      damage,
    },
  );
};

function decodedText(text: string, found: ValuesSummary | null): Uint8Array[] {
  const name = new TextEncoder().encode('text\n');
  if (found?.decoded) return [name, found.decoded];
  return [name, new TextEncoder().encode(text.replace(/^\ufeff/, '').replace(/\r\n?/g, '\n'))];
}

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
