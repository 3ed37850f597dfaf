import { foldService } from '@codemirror/language';
import type { Text } from '@codemirror/state';

const section = /^\s*\[[^\]]+\]\s*$/;
/** Further lines are not looked at for the end of what is folded. */
const mostLines = 20_000;

/**
 * Where what begins in a line ends, in texts whose language has no grammar here: a section of settings before the next one, and
 * whatever stands further in than its first line. @param number of the line, from 1
 * @returns places in the text; null where nothing is folded there
 */
export function foldedFrom(text: Text, number: number): { from: number; to: number } | null {
  const line = text.line(number);
  const isSection = section.test(line.text);
  const own = indentOf(line.text);
  if (line.text.trim() === '') return null;
  let end = number;
  for (let next = number + 1; next <= Math.min(text.lines, number + mostLines); next++) {
    const { text: words } = text.line(next);
    if (words.trim() === '') continue;
    if (isSection ? section.test(words) : indentOf(words) <= own) break;
    end = next;
  }
  return end === number ? null : { from: line.to, to: text.line(end).to };
}

function indentOf(line: string): number {
  let columns = 0;
  for (const letter of line) {
    if (letter === ' ') columns++;
    else if (letter === '\t') columns += 4;
    else break;
  }
  return columns;
}

/** The same for the editor. */
export const foldLines = foldService.of((state, from) =>
  foldedFrom(state.doc, state.doc.lineAt(from).number),
);
