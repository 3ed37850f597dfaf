import { SheetError } from './sheet-error.ts';

/** A type as a field names it: `u16be`, `string(32)`, `entry[header.count]`. */
export interface TypeWords {
  name: string;
  /** What stands in its brackets; null where there are none. */
  argument: string | null;
  /** How many there are; `end` to the end of what it lies in; null of what is no list. */
  count: string | null;
}

const form = /^\s*([A-Za-z_]\w*)\s*(?:\((.*?)\))?\s*(?:\[(.*)\])?\s*$/;

/** @throws SheetError */
export function typeWords(text: string): TypeWords {
  const [, name, argument, count] = form.exec(text) ?? [];
  if (name === undefined)
    throw new SheetError(`“${text}” is no type: a type is a name, as u16, string(32) or entry[count]`);
  return { name, argument: argument ?? null, count: count?.trim() ?? null };
}
