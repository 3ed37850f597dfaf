import { ReadError } from '../reading.ts';

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
