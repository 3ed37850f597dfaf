import { sameBytes } from '../../bytes.ts';
import { plural } from '../../figures.ts';
import { SheetError } from '../language/sheet-error.ts';
import { Trace } from '../language/trace.ts';
import { Waiting } from '../language/waiting.ts';
import type { OpenSheet } from '../open-sheet.ts';
import { compilePackers } from '../packings/packings.ts';
import { readFields, type FileToRead } from '../read-by-sheet.ts';
import type { SheetEntry } from '../results/lists.ts';
import { versionsFrom } from '../try-sheet.ts';
import { meaningsOf, relationsOf, valueOf, type MeasuredEntry, type Relation } from './entry-relations.ts';
import { numberAt, NumbersInFile, writeNumber } from './numbers-in-file.ts';
import { layoutsOf, type Layout, type PlacedEntry } from './layouts.ts';

/** A container with other files in it. */
export interface TurnedContainer {
  bytes: Uint8Array;
  /** What was done, in sentences without their stop. */
  notes: string[];
}

interface OpenContainer {
  version: string;
  entries: SheetEntry[];
  trace: Trace;
}

/** A sheet sees all of a file at once, and its copy lies beside it in memory. */
export const mostTurnedBytes = 512 * 1024 ** 2;

/** Entries are unpacked so far to see what fields say of them. */
const mostSamples = 64;

/** Reads a container by a sheet. @throws SheetError */
export async function openEntries(open: OpenSheet, file: FileToRead): Promise<OpenContainer> {
  const { entries } = open.result;
  if (!entries) throw new SheetError(`the sheet “${open.sheet.sheet}” describes no container`);
  let first: SheetError | null = null;
  for (const version of versionsFrom(open, null))
    try {
      const trace = new Trace();
      return {
        version,
        entries: await readFields(open, version, file, entries, undefined, trace),
        trace,
      };
    } catch (error) {
      if (!(error instanceof SheetError)) throw error;
      first ??= error;
    }
  throw first ?? new SheetError('it has no versions');
}

/** What comes out of an entry. @throws SheetError */
export async function bytesOfEntry(entry: SheetEntry): Promise<Uint8Array> {
  entry.budget.renew();
  for (;;)
    try {
      return entry.bytes();
    } catch (error) {
      if (!(error instanceof Waiting)) throw error;
      await error.prepare();
    }
}

/**
 * Puts other files into a container: a copy of its bytes where the packed files lie in the place of the old ones, behind all, or where
 * everything behind them has moved. Fields that say where an entry lies, how large it is, or its check sum are found by what
 * they say now, and written anew; so are those that the sheet says must be equal to something. The copy is then read by the
 * sheet again: what differs from what was wanted is no result.
 * @param changed new bytes by the number of their entry
 * @throws SheetError that says what stands in the way
 */
export async function putEntries(
  open: OpenSheet,
  file: FileToRead,
  changed: ReadonlyMap<number, Uint8Array>,
): Promise<TurnedContainer> {
  if (file.bytes.length > mostTurnedBytes)
    throw new SheetError('it is larger than 512 MiB, and files are put back in memory: it is left alone');
  const before = await openEntries(open, file);
  const { entries, trace, version } = before;
  const pack = packerOf(open);
  const numbers = new NumbersInFile(file.bytes, trace);
  const placed: PlacedEntry[] = [];
  const measured: MeasuredEntry[] = [];
  for (const [at, entry] of entries.entries()) {
    if (entry.offset === null)
      throw new SheetError(
        `${entry.name} does not lie in the file as it is, but in what is unpacked of it: nothing can take its place`,
      );
    const content = changed.get(at);
    placed.push({
      ...{ at, place: entry.offset, size: entry.packedSize },
      packed: content ? packed(pack, content, entry) : null,
    });
    measured.push({
      numbers: numbers.of(entry.scope) ?? new Map(),
      place: entry.offset,
      packed: file.bytes.subarray(entry.offset, entry.offset + entry.packedSize),
      bytes: content || at < mostSamples ? await bytesOrNothing(entry) : null,
    });
  }
  const relations = relationsOf(measured);
  let reason: SheetError | null = null;
  const usualOrder = open.sheet.endian === 'little';
  for (const meant of meaningsOf(relations))
    for (const layout of layoutsOf(file.bytes, placed))
      try {
        const written = writeFields(layout, { measured, relations: meant, changed, numbers, usualOrder });
        const bytes = await mended(open, version, file, layout.bytes);
        await prove(open, { ...file, bytes }, before, file.bytes, changed);
        return { bytes, notes: [layout.says, ...written] };
      } catch (error) {
        if (!(error instanceof SheetError)) throw error;
        reason = error;
      }
  throw cannot(open, relations, reason);
}

/** What is damaged may be replaced, too. */
async function bytesOrNothing(entry: SheetEntry): Promise<Uint8Array | null> {
  try {
    return await bytesOfEntry(entry);
  } catch (error) {
    if (!(error instanceof SheetError)) throw error;
    return null;
  }
}

function packerOf(open: OpenSheet): ReturnType<typeof compilePackers> {
  const { unpack } = open.sheet.result.entries ?? {};
  return unpack ? compilePackers(unpack) : (bytes) => bytes;
}

function packed(pack: ReturnType<typeof compilePackers>, content: Uint8Array, entry: SheetEntry): Uint8Array {
  entry.budget.renew();
  return pack(content, entry.scope);
}

/** Writes what the entries' fields say now, and those that stand alone. @returns which, in sentences @throws SheetError */
function writeFields(
  layout: Layout,
  {
    measured,
    relations,
    changed,
    numbers,
    usualOrder,
  }: {
    measured: readonly MeasuredEntry[];
    relations: readonly Relation[];
    changed: ReadonlyMap<number, Uint8Array>;
    numbers: NumbersInFile;
    /** Whether numbers begin with their lowest byte where they do not tell. */
    usualOrder: boolean;
  },
): string[] {
  const { bytes, moved, entries } = layout;
  const written = new Map<string, number>();
  for (const [at, entry] of entries.entries()) {
    const now = {
      place: entry.place,
      packed: bytes.subarray(entry.place, entry.place + entry.size),
      bytes: changed.get(at) ?? null,
    };
    for (const { name, says, isOfPacked, unit, base, isLittle } of relations) {
      // What was not changed says of itself what it said.
      if (!changed.has(at) && says !== 'place' && says !== 'end') continue;
      const number = measured[at]?.numbers.get(name);
      const value = valueOf(says, isOfPacked, now);
      if (!number || value === null) continue;
      const stored = (value - base) / unit;
      if (!writeNumber(bytes, { ...number, isLittle: isLittle ?? usualOrder, at: moved(number.at) }, stored))
        throw new SheetError(
          `${value.toLocaleString('en')} does not fit into ${name}, which has ${plural(number.bytes, 'byte')}`,
        );
      if (stored !== number.value) written.set(name, (written.get(name) ?? 0) + 1);
    }
  }
  for (const number of numbers.alone) {
    const value =
      number.value === layout.lengthBefore
        ? bytes.length
        : numbers.places.has(number.value)
          ? moved(number.value)
          : number.value;
    const place = { ...number, isLittle: number.isLittle ?? usualOrder, at: moved(number.at) };
    if (value === number.value || !writeNumber(bytes, place, value)) continue;
    written.set(number.name, 1);
  }
  const told = [...written].map(
    ([name, count]) => `“${name}”${count > 1 ? ` of ${count.toLocaleString('en')} entries` : ''}`,
  );
  return told.length === 0 ? [] : [`written anew: ${told.join(', ')}`];
}

/** Fields that must be equal to something, such as check sums of a list, are written until nothing changes any more. */
async function mended(
  open: OpenSheet,
  version: string,
  file: FileToRead,
  bytes: Uint8Array,
): Promise<Uint8Array> {
  for (let round = 0; round < 4; round++) {
    let count = 0;
    const mend: FileToRead['mend'] = (begin, end, value, wanted) => {
      if (typeof wanted !== 'number' || typeof value !== 'number') return false;
      const size = end - begin;
      const isLittle = numberAt(bytes, begin, size, true) === value;
      if (!isLittle && numberAt(bytes, begin, size, false) !== value) return false;
      count++;
      return writeNumber(bytes, { at: begin, bytes: size, isLittle }, wanted);
    };
    await readFields(open, version, { ...file, bytes, mend }, (root) => root);
    if (count === 0) break;
  }
  return bytes;
}

/** Reads it by the sheet: the same names, the wanted files as they are wanted, the others as they were. @throws SheetError */
async function prove(
  open: OpenSheet,
  file: FileToRead,
  before: OpenContainer,
  bytesBefore: Uint8Array,
  changed: ReadonlyMap<number, Uint8Array>,
): Promise<void> {
  const { entries } = await openEntries(open, file);
  if (entries.length !== before.entries.length)
    throw new SheetError(`it would have ${entries.length} entries instead of ${before.entries.length}`);
  for (const [at, entry] of entries.entries()) {
    const was = before.entries[at];
    if (!was || entry.name !== was.name) throw new SheetError(`${was?.name ?? ''} would be called otherwise`);
    const content = changed.get(at);
    const isRight = content
      ? sameBytes(await bytesOfEntry(entry), content)
      : entry.offset !== null &&
        was.offset !== null &&
        sameBytes(
          file.bytes.subarray(entry.offset, entry.offset + entry.packedSize),
          bytesBefore.subarray(was.offset, was.offset + was.packedSize),
        );
    if (!isRight) throw new SheetError(`${entry.name} would not be what it should be`);
  }
}

/** Why it could not be done, by what no field was found to say. */
function cannot(open: OpenSheet, relations: readonly Relation[], reason: SheetError | null): SheetError {
  const says = new Set(relations.map((relation) => relation.says));
  const missing = [
    ...(says.has('place') || says.has('end') ? [] : ['where it lies']),
    ...(says.has('packed size') || says.has('end') ? [] : ['how large it is']),
  ];
  const unsaid =
    missing.length > 0
      ? ` No field of an entry was found that stands in the file as a number and says ${missing.join(', and none that says ')}.`
      : '';
  const told = reason ? `${reason.where === '' ? '' : `${reason.where}: `}${reason.message}` : 'nothing fits';
  return new SheetError(
    `the sheet “${open.sheet.sheet}” cannot be turned round here: ${told}.${unsaid}`,
    reason?.at ?? null,
  );
}
