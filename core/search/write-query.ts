import type { RangeField } from './query.ts';

/** What a form asks for, field by field; nothing in a field asks for nothing. */
export interface QueryForm {
  words: string;
  without: string;
  extensions: string;
  /** Words that a text holds, as they stand there. */
  inTexts: string;
  figure: RangeField;
  from: string;
  to: string;
}

export const emptyForm: QueryForm = {
  words: '',
  without: '',
  extensions: '',
  inTexts: '',
  figure: 'size',
  from: '',
  to: '',
};

/** The query that a form stands for. */
export function writeQuery({ words, without, extensions, inTexts, figure, from, to }: QueryForm): string {
  const listed = (text: string): string[] => text.split(/[\s,]+/).filter((part) => part !== '');
  const parts = [words.trim(), ...listed(without).map((word) => `-${word}`)];
  const endings = listed(extensions).map((ending) => ending.replace(/^\./, ''));
  if (endings.length > 0) parts.push(`ext:${endings.join(',')}`);
  const held = inTexts.trim().replaceAll('"', '');
  if (held !== '') parts.push(/\s/.test(held) ? `text:"${held}"` : `text:${held}`);
  const [low, high] = [from.replaceAll(' ', ''), to.replaceAll(' ', '')];
  if (low !== '' || high !== '') parts.push(`${figure}:${low}..${high}`);
  return parts.filter((part) => part !== '').join(' ');
}
