import { fieldsOf } from './propose.ts';
import type { Proposal } from './proposal.ts';

/** A sheet whose root is written anew from proposals; its byte order too, where one of them says it. All else stays. */
export function takenOver(text: string, taken: readonly Proposal[]): string {
  const root = fieldsOf(taken);
  const order = taken.find(({ kind }) => kind === 'order')?.isLittle;
  let next = text;
  if (root !== '') {
    const block = /^root:[^\n]*\n(?:(?:[ \t][^\n]*|#[^\n]*|)\n?)*/m;
    next = block.test(next)
      ? next.replace(block, () => `root:\n${root}\n`)
      : `${next.trimEnd()}\nroot:\n${root}\n`;
  }
  if (order === undefined) return next;
  const line = `endian: ${order ? 'little' : 'big'}`;
  if (/^endian:.*$/m.test(next)) return next.replace(/^endian:.*$/m, line);
  return next.replace(/^root:/m, `${line}\nroot:`);
}
