import { relationSchema, type EntryDetails } from '../../contract/catalogue.ts';

/** Details of an entry as people type them, a thing a line. */
export const lines = {
  /** `de: Weißer Reiher` */
  names: ({ names }: EntryDetails): string =>
    names.map(({ language, name }) => `${language}: ${name}`).join('\n'),
  aliases: ({ aliases }: EntryDetails): string => aliases.join('\n'),
  tags: ({ tags }: EntryDetails): string => tags.join(', '),
  /** `variant of 12` */
  relations: ({ relations }: EntryDetails): string =>
    relations.map(({ as, entry }) => `${as} ${entry}`).join('\n'),
};

const linesOf = (text: string, separator: string | RegExp = '\n'): string[] =>
  text
    .split(separator)
    .map((line) => line.trim())
    .filter(Boolean);

/** What was typed as details; what cannot be told apart is left for the schema to refuse. */
export function readLines(read: (name: string) => string): Record<string, unknown> {
  return {
    names: linesOf(read('names')).map((line) => {
      const [, language = line, name = line] = /^([^:]*):\s*(.+)$/.exec(line) ?? [];
      return { language: language.trim(), name };
    }),
    aliases: linesOf(read('aliases')),
    tags: linesOf(read('tags'), /[,\n]/),
    relations: linesOf(read('relations')).map((line) => {
      const as = relationSchema.options.find((option) => line.startsWith(option));
      return { as: as ?? line, entry: Number(line.slice(as?.length ?? 0).replace(/^\s*#?/, '') || NaN) };
    }),
  };
}
