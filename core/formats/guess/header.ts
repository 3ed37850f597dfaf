import type { Proposal, Sample } from './proposal.ts';

/** Bytes that all files begin with: letters as a text, others as numbers. */
export function constantsOf(samples: readonly Sample[]): Proposal[] {
  const [first] = samples;
  if (!first || samples.length < 2) return [];
  const isSame = (at: number): boolean =>
    samples.every(({ bytes }) => at < bytes.length && bytes[at] === first.bytes[at]);
  let length = 0;
  while (length < 64 && isSame(length)) length++;
  // Zeros are the upper half of a small number, and no mark.
  if (length < 2 || first.bytes.subarray(0, Math.min(length, 4)).every((byte) => byte === 0)) return [];
  // Equal files say nothing.
  if (samples.every(({ bytes, size }) => size === first.size && length === Math.min(64, bytes.length)))
    return [];
  let letters = 0;
  while (letters < length && isLetter(first.bytes[letters] ?? 0)) letters++;
  // A number that follows may look like letters: words are of letters, digits and _.
  const word = /^\w{3,}/.exec(new TextDecoder('latin1').decode(first.bytes.subarray(0, letters)))?.[0];
  if (word !== undefined) letters = word.length;
  const bytes = letters >= 2 ? letters : Math.min(length, 4);
  const text = new TextDecoder().decode(first.bytes.subarray(0, letters));
  const shown =
    letters >= 2
      ? `“${text}”`
      : [...first.bytes.subarray(0, bytes)]
          .map((byte) => byte.toString(16).padStart(2, '0').toUpperCase())
          .join(' ');
  const score = letters >= 2 ? (samples.length >= 3 ? 0.97 : 0.85) : samples.length >= 4 ? 0.91 : 0.7;
  const is =
    letters >= 2 ? `'${text.replaceAll("'", "''")}'` : `[${first.bytes.subarray(0, bytes).join(', ')}]`;
  return [
    {
      ...{ kind: 'constant', at: 0, bytes, score, field: { name: 'mark', type: `{ is: ${is} }` } },
      says: `${samples.length} files begin with ${shown}`,
    },
  ];
}

const headerBytes = 192;
const fewestLetters = 4;

/** Words further back that are the same in all files. */
export function wordsOf(samples: readonly Sample[], from: number): Proposal[] {
  const [first] = samples;
  if (!first || samples.length < 3) return [];
  const length = Math.min(headerBytes, ...samples.map(({ bytes }) => bytes.length));
  const found: Proposal[] = [];
  for (let at = from; at < length;) {
    let end = at;
    while (
      end < length &&
      isLetter(first.bytes[end] ?? 0) &&
      samples.every(({ bytes }) => bytes[end] === first.bytes[end])
    )
      end++;
    const text = new TextDecoder().decode(first.bytes.subarray(at, end));
    if (/^[A-Za-z0-9_ ]{4,}$/.test(text) && end - at >= fewestLetters)
      found.push({
        ...{ kind: 'constant', at, bytes: end - at, score: 0.93 },
        says: `${samples.length} files have “${text}” here`,
        field: { name: 'word', type: `{ is: '${text}' }` },
      });
    at = Math.max(end, at + 1);
  }
  return found;
}

function isLetter(byte: number): boolean {
  return byte >= 32 && byte < 127;
}

/** The order that the numbers of several bytes have for which a relation was found. */
export function orderOf(found: readonly Proposal[]): Proposal[] {
  const told = found.filter(({ isLittle, score }) => isLittle !== undefined && score >= 0.9);
  const little = told.filter(({ isLittle }) => isLittle).length;
  if (told.length === 0 || little * 2 === told.length) return [];
  const isLittle = little * 2 > told.length;
  const agreeing = isLittle ? little : told.length - little;
  return [
    {
      ...{ kind: 'order', at: 0, bytes: 0, isLittle, field: null },
      says: `${agreeing} of ${told.length} numbers that fit the files are ${isLittle ? 'little' : 'big'}-endian`,
      score: agreeing === told.length ? 0.98 : 0.8,
    },
  ];
}
