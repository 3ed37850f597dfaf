import type { SheetExpression } from '../../../contract/format-sheets.ts';
import { SheetError } from './sheet-error.ts';

/** Reads the words of a line, and says what each field is. @throws SheetError where they do not fit */
export type ReadWords = (words: readonly string[], put: PutWord) => void;
export type PutWord = (name: string, value: number | string | Float64Array | string[]) => void;

interface WordField {
  name: string;
  type: 'number' | 'integer' | 'word' | 'rest';
  isOptional: boolean;
  /** So many words; null of one, -1 of all that are left. */
  count: number | null;
}

const form = /^(number|integer|word|rest)(\?)?(?:\((\d+)\)|(\[\]))?$/;

/**
 * What the words of a line are: `number`, `integer`, `word`, each with `?` where it may be missing, with `(3)` where there are so many,
 * with `[]` where it is all that are left; `rest` is all that are left as one text.
 * @param split what each word is split at: then the fields are those of each word, and lists
 */
export function wordReader(
  words: Readonly<Record<string, SheetExpression>>,
  split: string | null,
): ReadWords {
  const fields = Object.entries(words).map(([name, text]) => fieldOf(name, String(text)));
  if (split === null) return (line, put) => readFields(fields, line, put);
  return (line, put) => {
    const pieces = line.map((word) => word.split(split));
    put('words', pieces.length);
    fields.forEach(({ name, type, isOptional }, part) => {
      if (type === 'number' || type === 'integer')
        put(
          name,
          Float64Array.from(pieces, (piece) => numberOfWord(piece[part] ?? '', name, type, isOptional)),
        );
      else
        put(
          name,
          pieces.map((piece) => piece[part] ?? ''),
        );
    });
  };
}

function fieldOf(name: string, text: string): WordField {
  const [, type, optional, count, all] = form.exec(text) ?? [];
  if (type === undefined)
    throw new SheetError(
      `“${text}” is no kind of word: there are number, integer, word and rest`,
      null,
      name,
    );
  return {
    name,
    type: type as WordField['type'],
    isOptional: optional !== undefined,
    count: all === undefined ? (count === undefined ? null : Number(count)) : -1,
  };
}

function readFields(fields: readonly WordField[], line: readonly string[], put: PutWord): void {
  let at = 0;
  for (const { name, type, isOptional, count } of fields) {
    if (type === 'rest') {
      put(name, line.slice(at).join(' '));
      at = line.length;
      continue;
    }
    if (count === null) {
      const word = line[at++];
      if (word === undefined && !isOptional)
        throw new SheetError(`the line has ${line.length} words, and none is left for ${name}`);
      put(name, type === 'word' ? (word ?? '') : numberOfWord(word ?? '', name, type, isOptional));
      continue;
    }
    const taken = line.slice(at, count < 0 ? undefined : at + count);
    if (taken.length < count)
      throw new SheetError(`the line has ${line.length} words, and ${name} needs ${count} from ${at} on`);
    at += taken.length;
    put(
      name,
      type === 'word'
        ? taken
        : Float64Array.from(taken, (word) => numberOfWord(word, name, type, isOptional)),
    );
  }
}

/** NaN where it is missing and may be. @throws SheetError where it is no number */
function numberOfWord(word: string, name: string, type: string, isOptional: boolean): number {
  if (word === '') {
    if (isOptional) return NaN;
    throw new SheetError(`${name} is missing`);
  }
  const number = Number(word);
  if (Number.isNaN(number)) throw new SheetError(`“${word}” is no number, as ${name} must be`);
  if (type === 'integer' && !Number.isInteger(number))
    throw new SheetError(`“${word}” is no whole number, as ${name} must be`);
  return number;
}
