import { ReadError, type BySheet } from '../kinds/reading.ts';
import { offsetText, SheetError } from './language/sheet-error.ts';
import type { Struct } from './language/values.ts';
import { Waiting } from './language/waiting.ts';
import type { OpenSheet } from './open-sheet.ts';
import { readFields, type FileToRead } from './read-by-sheet.ts';
import { versionsFrom } from './try-sheet.ts';
import type { CompiledResult } from './results/compile-result.ts';
import type { SheetEntry } from './results/lists.ts';

/** The same for a container, which no kind’s reader reads. */
export interface FileBySheet extends BySheet {
  entries: () => Promise<SheetEntry[]>;
  /** Unpacked; what one may take is as much as a file may. */
  entryBytes: (entry: SheetEntry) => Promise<Uint8Array>;
}

/**
 * A file by a sheet, as readers of kinds want it.
 * @param meant the version to be tried first, null for the newest: where it does not fit, its neighbours are tried
 */
export function bySheet(open: OpenSheet, meant: string | null, file: FileToRead): FileBySheet {
  const { sheet: name } = open.sheet;
  let fitting: { version: string; root: Struct } | null = null;
  const made = async <Kind extends keyof CompiledResult, Made>(
    kind: Kind,
    make: ((root: Struct) => Made) | null,
  ): Promise<Made> => {
    if (!make) throw new ReadError(`the sheet “${name}” makes no ${kind}`);
    let first: SheetError | null = null;
    const versions = fitting === null ? versionsFrom(open, meant) : [fitting.version];
    for (const version of versions)
      try {
        // Fields that were read stay; what else they need is waited for by reading them again.
        if (fitting)
          try {
            return make(fitting.root);
          } catch (error) {
            if (!(error instanceof Waiting)) throw error;
          }
        const { root, found } = await readFields(open, version, file, (fields) => ({
          root: fields,
          found: make(fields),
        }));
        fitting = { version, root };
        return found;
      } catch (error) {
        if (!(error instanceof SheetError)) throw error;
        first ??= error;
      }
    throw misfit(open, first ?? new SheetError('it has no versions'), versions);
  };
  const { result } = open;
  return {
    mark: () => ({ name, version: fitting?.version ?? '' }),
    async picture() {
      const picture = await made('picture', result.picture);
      // Pixels are unpacked when they are asked for: what does not fit there is told as anywhere else.
      const image: typeof picture.image = async (place) => {
        try {
          return await picture.image(place);
        } catch (error) {
          throw error instanceof SheetError ? misfit(open, error) : error;
        }
      };
      return { ...picture, image };
    },
    sound: () => made('sound', result.sound),
    async model() {
      const model = await made('model', result.model);
      const { sheetDocument } = await import('./results/sheet-document.ts');
      return sheetDocument(model, file.resolve);
    },
    placements: () => made('placements', result.placements),
    table: () => made('table', result.table),
    entries: () => made('entries', result.entries),
    async entryBytes(entry) {
      entry.budget.renew();
      for (;;)
        try {
          return entry.bytes();
        } catch (error) {
          if (error instanceof Waiting) await error.prepare();
          else throw error instanceof SheetError ? misfit(open, error) : error;
        }
    },
    mentions: async () => (result.mentions ? made('mentions', result.mentions) : []),
  };
}

function misfit(
  open: OpenSheet,
  error: SheetError,
  [tried = '', ...others]: readonly string[] = [],
): ReadError {
  const which = tried === '' ? '' : `, version ${tried}${others.length > 0 ? ', nor another' : ''}`;
  return new ReadError(`it does not fit the sheet “${open.sheet.sheet}”${which}: ${sentence(open, error)}`);
}

/** What is wrong, with where in the file it shows: at a byte, or in a line of a text. */
export function sentence({ sheet }: OpenSheet, { message, at, where }: SheetError): string {
  const place = at === null ? '' : sheet.text ? `in line ${at}: ` : `at ${offsetText(at)}: `;
  return `${place}${where === '' ? '' : `${where}: `}${message}`;
}
