import { ReadError, type BySheet } from '../kinds/reading.ts';
import { offsetText, SheetError } from './language/sheet-error.ts';
import type { Struct } from './language/values.ts';
import type { OpenSheet } from './open-sheet.ts';
import { readFields, type FileToRead } from './read-by-sheet.ts';
import { versionsFrom } from './try-sheet.ts';
import type { CompiledResult } from './results/compile-result.ts';

/**
 * A file by a sheet, as readers of kinds want it.
 * @param meant the version to be tried first, null for the newest: where it does not fit, its neighbours are tried
 */
export function bySheet(open: OpenSheet, meant: string | null, file: FileToRead): BySheet {
  const { sheet: name } = open.sheet;
  let fitting: string | null = null;
  const made = async <Kind extends keyof CompiledResult, Made>(
    kind: Kind,
    make: ((root: Struct) => Made) | null,
  ): Promise<Made> => {
    if (!make) throw new ReadError(`the sheet “${name}” makes no ${kind}`);
    let first: SheetError | null = null;
    const versions = fitting === null ? versionsFrom(open, meant) : [fitting];
    for (const version of versions)
      try {
        const found = await readFields(open, version, file, make);
        fitting = version;
        return found;
      } catch (error) {
        if (!(error instanceof SheetError)) throw error;
        first ??= error;
      }
    const [tried = '', ...others] = versions;
    const which = tried === '' ? '' : `, version ${tried}${others.length > 0 ? ', nor another' : ''}`;
    throw new ReadError(
      `it does not fit the sheet “${name}”${which}: ${first ? sentence(open, first) : 'it has no versions'}`,
    );
  };
  const { result } = open;
  return {
    mark: () => ({ name, version: fitting ?? '' }),
    picture: () => made('picture', result.picture),
    sound: () => made('sound', result.sound),
    async model() {
      const model = await made('model', result.model);
      const { sheetDocument } = await import('./results/sheet-document.ts');
      return sheetDocument(model, file.resolve);
    },
    placements: () => made('placements', result.placements),
    table: () => made('table', result.table),
    mentions: async () => (result.mentions ? made('mentions', result.mentions) : []),
  };
}

/** What is wrong, with where in the file it shows: at a byte, or in a line of a text. */
export function sentence({ sheet }: OpenSheet, { message, at, where }: SheetError): string {
  const place = at === null ? '' : sheet.text ? `in line ${at}: ` : `at ${offsetText(at)}: `;
  return `${place}${where === '' ? '' : `${where}: `}${message}`;
}
