import { plural } from '../figures.ts';
import type { Struct } from './language/values.ts';
import type { OpenSheet } from './open-sheet.ts';

/** What comes out of it, in a few words. @throws SheetError */
export function outcomeOf({ result }: OpenSheet, root: Struct): string {
  const { picture, sound, model, entries, table, placements, mentions } = result;
  const count = (number: number): string => number.toLocaleString('en');
  const parts: string[] = [];
  if (picture) {
    const { width, height, encoding, levels, layers } = picture(root);
    parts.push(
      `a picture of ${width} × ${height}, ${encoding}${levels > 1 ? `, ${levels} levels` : ''}${layers > 1 ? `, ${layers} layers` : ''}`,
    );
  }
  if (sound) {
    const { sound: made } = sound(root);
    const seconds = (made.frames / made.sampleRate).toFixed(3);
    parts.push(`a sound of ${seconds} s, ${made.channels} × ${made.sampleRate} Hz, ${made.coding}`);
  }
  if (model) {
    const { parts: made, bones, clips } = model(root);
    const triangles = made.reduce((sum, { indices }) => sum + (indices?.length ?? 0) / 3, 0);
    parts.push(
      `a model of ${plural(triangles, 'triangle')} in ${plural(made.length, 'part')}, ${plural(bones?.length ?? 0, 'bone')}, ${plural(clips.length, 'clip')}`,
    );
  }
  if (entries) {
    const made = entries(root);
    for (const { bytes } of made.slice(0, 20)) bytes();
    parts.push(`a container of ${count(made.length)} entries`);
  }
  if (table) parts.push(`a table of ${count(table(root).length)} bytes as CSV`);
  if (placements) parts.push(`${count(placements(root).length)} placements`);
  const named = mentions?.(root).length ?? 0;
  if (named > 0) parts.push(`${count(named)} other files named`);
  return parts.join('; ') || 'fields alone';
}
