import { Budget, usualLimits, type Limits } from './language/budget.ts';
import { SheetError } from './language/sheet-error.ts';
import { sourceOf, Struct, type Reading } from './language/values.ts';
import type { Trace } from './language/trace.ts';
import { Waiting } from './language/waiting.ts';
import type { OpenSheet } from './open-sheet.ts';

/** A file as it is read by a sheet. */
export interface FileToRead {
  bytes: Uint8Array;
  path: string;
  /** Bytes of another file of the build, by its name from this one; null where there is none. */
  resolve: (name: string) => Promise<Uint8Array | null>;
  /** Keys of the title's keyring, those of the build first, for sheets that unpack with one. */
  keys?: readonly Uint8Array[] | undefined;
  /** Writes into `bytes` what a field must be, where the file is being made. */
  mend?: Reading['mend'];
}

/** Files that one file may name to be read with it. */
const mostSisters = 32;

/**
 * Reads the fields of a file, and makes something of them. A sheet that unpacks with a key of the keyring is tried with each.
 * @param make of the root; where it throws `Waiting` all is read again
 * @param trace notes where the fields lie
 * @throws SheetError that says where the file does not fit
 */
export async function readFields<Made>(
  open: OpenSheet,
  version: string,
  file: FileToRead,
  make: (root: Struct) => Made,
  limits: Limits = usualLimits,
  trace: Trace | null = null,
): Promise<Made> {
  const sisters = new Map<string, Uint8Array | null>();
  const keys = open.usesKeyring ? (file.keys ?? []) : [];
  let first: SheetError | null = null;
  for (const key of keys.length > 0 ? keys : [null])
    try {
      return await readWith(key, open, version, file, make, limits, trace, sisters);
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      first ??= error;
    }
  if (first && keys.length > 1)
    throw new SheetError(`with none of ${keys.length} keys: ${first.message}`, first.at, first.where);
  throw first ?? new SheetError('it was not read');
}

async function readWith<Made>(
  key: Uint8Array | null,
  open: OpenSheet,
  version: string,
  file: FileToRead,
  make: (root: Struct) => Made,
  limits: Limits,
  trace: Trace | null,
  sisters: Map<string, Uint8Array | null>,
): Promise<Made> {
  const read = open.fields(version);
  for (let round = 0; round <= mostSisters + 4; round++) {
    const source = sourceOf(file.bytes, true);
    const reading: Reading = {
      ...{ file: source, source, path: file.path, version, budget: new Budget(limits), trace, key },
      mend: file.mend,
      ...{ root: null, at: 0, end: file.bytes.length, index: 0, previous: null },
      isLittle: open.sheet.endian === 'little',
      sister(name) {
        const known = sisters.get(name);
        if (known !== undefined) return known;
        if (sisters.size >= mostSisters)
          throw new SheetError(`it names more than ${mostSisters} files to be read with it`);
        throw new Waiting(async () => void sisters.set(name, await file.resolve(name)));
      },
    };
    trace?.reset();
    const root = new Struct(reading, null, 0);
    try {
      read(reading, root);
      return make(root);
    } catch (error) {
      if (error instanceof Waiting) await error.prepare();
      else if (error instanceof RangeError) throw new SheetError(`it cannot be read: ${error.message}`);
      else throw error;
    }
  }
  throw new SheetError('what has to be there first does not come');
}
