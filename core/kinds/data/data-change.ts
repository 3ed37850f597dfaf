import { isScalar } from '../keyed-values.ts';
import type { DataIds } from './data-ids.ts';

/** One difference of two data: all that is in a list or an object that came or went is one. */
export interface DataChange {
  status: 'added' | 'gone' | 'changed' | 'renamed' | 'moved';
  /** Where: keys with dots between them, items of lists in brackets. Of what was renamed, where it is now. */
  key: string;
  /** The last name in it, without numbers: changes of the same field belong together. */
  field: string;
  /** As people read it, with what is invisible made visible. */
  old: string;
  new: string;
  /** Values that it is made of. */
  values: number;
  /** Of what was added to a list: whether it stands before, or behind, all that was there. */
  place: 'front' | 'end' | '';
  /** Of what came or went, the number of its data: equal for equal ones. */
  id?: number;
}

/** What is compared at the moment, and where its changes go. */
export interface DataComparison {
  ids: DataIds;
  changes: DataChange[];
  compare: (old: unknown, now: unknown, path: string) => void;
}

export function isObject(value: unknown): value is Record<string, unknown> {
  return !isScalar(value) && !Array.isArray(value);
}

export function changeOf(
  status: DataChange['status'],
  key: string,
  old: string,
  now: string,
  values: number,
): DataChange {
  return { status, key, field: fieldOf(key), old, new: now, values, place: '' };
}

/** The last name of a key, without numbers. */
export function fieldOf(key: string): string {
  const bare = key.replace(/\[[^\]]*\]/g, '');
  return bare.slice(bare.lastIndexOf('.') + 1);
}
