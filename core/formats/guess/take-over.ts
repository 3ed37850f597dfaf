import { isMap, isScalar, parseDocument } from 'yaml';
import { fieldsOf } from './propose.ts';
import type { Proposal } from './proposal.ts';

/** A sheet whose root is written anew from proposals; its byte order too, where one of them says it. All else stays as it is written. */
export function takenOver(text: string, taken: readonly Proposal[]): string {
  const root = fieldsOf(taken);
  const isLittle = taken.find(({ kind }) => kind === 'order')?.isLittle;
  const rooted = root === '' ? text : withKey(text, 'root', `root:\n${root}\n`, '');
  if (isLittle === undefined) return rooted;
  return withKey(rooted, 'endian', `endian: ${isLittle ? 'little' : 'big'}\n`, 'root');
}

/** With a key’s part of the text in the place of the one that is there; else before another one, or at the end. */
function withKey(text: string, key: string, part: string, before: string): string {
  const own = rangeOf(text, key);
  if (own) return text.slice(0, own.begin) + part + text.slice(own.end);
  const at = rangeOf(text, before)?.begin;
  if (at !== undefined) return text.slice(0, at) + part + text.slice(at);
  return `${text.trimEnd()}\n${part}`;
}

/** Where a key of a sheet stands, with its value and the line that this ends. */
function rangeOf(text: string, key: string): { begin: number; end: number } | null {
  const { contents } = parseDocument(text, { uniqueKeys: false, logLevel: 'silent' });
  if (!isMap(contents)) return null;
  const at = contents.items.findIndex((item) => isScalar(item.key) && item.key.value === key);
  const begin = keyStart(contents.items[at]?.key);
  if (begin === null) return null;
  const next = keyStart(contents.items[at + 1]?.key);
  if (next === null) return { begin, end: text.length };
  // Remarks before the next key are that one’s.
  const between = text.slice(begin, next);
  const remarks = /(?:^[ \t]*(?:#[^\n]*)?\n)*$/m.exec(between.slice(between.indexOf('\n') + 1));
  return { begin, end: next - (remarks?.[0].length ?? 0) };
}

function keyStart(key: unknown): number | null {
  return isScalar(key) ? (key.range?.[0] ?? null) : null;
}
