import { asItLay, type HaulSettings } from '../../../../contract/haul-settings.ts';
import { ReadError, type ReadRequest } from '../../reading.ts';
import type { KeyedValue } from '../../keyed-values.ts';
import type { Proof, Written } from '../../writing.ts';
import { decodeText } from '../decode.ts';
import { papa } from '../separated.ts';
import { po } from '../structured.ts';
import { valuesOf } from '../values.ts';

export const textEndings = { json: '.json', csv: '.csv', po: '.po' } as const;
type Values = KeyedValue[];

/**
 * Writes the values of a text by their keys: as JSON (a list, for keys may stand more than once), as CSV (RFC 4180), or as a PO of
 * GNU gettext with the key as context.
 * @throws ReadError where it has no values
 */
export async function writeText(
  request: ReadRequest,
  format: string,
  { as }: HaulSettings['texts'],
): Promise<Written> {
  if (as === asItLay) throw new RangeError('writeText: what stays as it lay is not written');
  // What a sheet makes of it is a table already.
  if (format === 'sheet-table' && as === 'csv')
    return {
      ...{ files: [{ ending: '.csv', bytes: request.bytes }], losses: [], notes: [] },
      proof: { verdict: 'the same', sentence: '' },
    };
  const found = await valuesOf(decodeText(request.bytes).text, format === 'sheet-table' ? 'csv' : format);
  if (!found) throw new ReadError('a plain text has no values: it can be taken out as it lay');
  const { values, language } = found;
  const bytes = new TextEncoder().encode(textOf(values, language, as));
  return {
    files: [{ ending: textEndings[as], bytes }],
    losses: [],
    notes: [],
    proof: proofOf(values, bytes, as),
  };
}

function textOf(values: Values, language: string | null, as: keyof typeof textEndings): string {
  switch (as) {
    case 'json':
      return `${JSON.stringify(
        values.map(({ key, value }) => ({ key, value })),
        null,
        1,
      )}\n`;
    case 'csv':
      return `${papa.unparse([['key', 'value'], ...values.map(({ key, value }) => [key, value])], { newline: '\r\n' })}\r\n`;
    case 'po': {
      const messages: Record<
        string,
        Record<string, { msgctxt: string; msgid: string; msgstr: string[] }>
      > = {};
      values.forEach(({ key, value }, at) => {
        // A key that stands more than once is told apart by its number.
        const context = messages[key] ? `${key} #${at + 1}` : key;
        messages[context] = { [value]: { msgctxt: context, msgid: value, msgstr: [value] } };
      });
      return po
        .compile({
          charset: 'utf-8',
          headers: {
            'Content-Type': 'text/plain; charset=utf-8',
            ...(language ? { Language: language } : {}),
          },
          translations: messages,
        })
        .toString();
    }
  }
}

function proofOf(values: Values, bytes: Uint8Array, as: keyof typeof textEndings): Proof {
  const text = new TextDecoder('utf-8', { ignoreBOM: true }).decode(bytes);
  const read = readBack(text, as);
  if (read.length !== values.length)
    return { verdict: 'differs', sentence: `It has ${read.length} values instead of ${values.length}.` };
  const first = values.find(({ value }, at) => read[at] !== value);
  return first
    ? { verdict: 'differs', sentence: `The value of “${first.key}” is another one.` }
    : { verdict: 'the same', sentence: '' };
}

function readBack(text: string, as: keyof typeof textEndings): string[] {
  switch (as) {
    case 'json':
      return (JSON.parse(text) as { value: string }[]).map(({ value }) => value);
    case 'csv':
      return papa
        .parse<string[]>(text, { skipEmptyLines: false, delimiter: ',', newline: '\r\n' })
        .data.slice(1, -1)
        .map(([, value = '']) => value);
    case 'po':
      return Object.entries(po.parse(text).translations)
        .filter(([context]) => context !== '')
        .flatMap(([, messages]) => Object.values(messages).map(({ msgstr }) => msgstr[0] ?? ''));
  }
}
