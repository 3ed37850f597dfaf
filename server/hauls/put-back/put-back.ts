import { createHash } from 'node:crypto';
import { closeSync, openSync, readFileSync, readSync, statSync } from 'node:fs';
import { rename, rm, writeFile } from 'node:fs/promises';
import { basename, dirname, join, resolve } from 'node:path';
import { bytesText, plural } from '../../../core/figures.ts';
import { containerOf } from '../../../core/containers/container-format.ts';
import { escaped, plainPage } from '../../../core/hauls/record-page.ts';
import { identify } from '../../../core/kinds/identify.ts';
import { FileSource } from '../../ingest/containers/byte-source.ts';
import { listZip } from '../../ingest/containers/zip.ts';
import { PlainError, messageOf } from '../../platform/plain-error.ts';
import type { ArchiveCopy } from './archive-copy.ts';
import { FolderCopy, filesBelow } from './folder-copy.ts';
import type { OpenSheet } from '../../../core/formats/open-sheet.ts';
import { nearestName } from './nearest-name.ts';
import { sistersOf, type MakeSister, type Sister } from './sisters.ts';
import { SheetCopy } from './sheet-copy.ts';
import { TarCopy } from './tar-copy.ts';
import { ZipCopy, areSamePacked } from './zip-copy.ts';

export interface PutBackFile {
  name: string;
  bytes: number;
  bytesBefore: number;
  sha256: string;
  sha256Before: string;
  /** What the game may not expect, in sentences. */
  remarks: string[];
}

/** What came of putting files back. */
export interface PutBackReport {
  source: string;
  copy: string;
  files: PutBackFile[];
  /** How many were compared and are as they were. */
  unchanged: number;
  /** Files that belong to those that were put back, and stayed as they were: with why, where they were to be made anew. */
  sisters: (Sister & { why: string })[];
  /** How it was done, where that is no matter of course. */
  notes: string[];
}

/** How it is done, beside source and target. */
export interface PutBackWays {
  lookAt: LookAt;
  /** Sheets that describe containers, for a source that is none of the known ones. */
  sheets?: readonly OpenSheet[];
  /** Makes files anew that belong to those that were changed; without it they stay. */
  makeSister?: MakeSister;
}

/** Tells what a content is: what `remarks` are made of; null where nothing could be found out. */
export type LookAt = (bytes: Buffer, name: string) => Promise<string | null>;

/**
 * Puts changed files into a copy of what they came from, each under exactly the name that is there; the copy is opened again and
 * compared with the original.
 * @param source a folder, a ZIP or a TAR, which is only read
 * @param folder with the files, by the paths that they have in the source
 * @param target which is not there yet
 * @throws PlainError that names what does not fit, before anything is written
 */
export async function putBack(
  source: string,
  folder: string,
  target: string,
  { lookAt, sheets = [], makeSister }: PutBackWays,
): Promise<PutBackReport> {
  const open: Opener = (content) => openCopy(content, source, sheets);
  const copy = open(source);
  const part = `${target}.worvel-part`;
  try {
    refuseTarget(source, target);
    const names = await copy.names().catch((error: unknown) => {
      throw new PlainError(`${source} cannot be read: ${messageOf(error)}.`);
    });
    const wanted = filesBelow(folder);
    if (wanted.length === 0) throw new PlainError(`${folder} has no files to put back.`);
    refuseNames(wanted, names, source);
    const contents = new Map(wanted.map((name) => [name, join(folder, name)]));
    const { sisters, madeOf } = await addSisters(copy, contents, sistersOf(wanted, names), makeSister);
    const files: PutBackFile[] = [];
    for (const [name, file] of contents) {
      const described = await describe(copy, name, file, lookAt);
      const made = madeOf.get(name);
      files.push(made ? { ...described, remarks: [made, ...described.remarks] } : described);
    }
    const notes = await copy.write(part, contents);
    const unchanged = await prove(open, source, part, new Map(files.map((file) => [file.name, file])));
    await rename(part, target);
    const report = { source, copy: target, files, unchanged, sisters, notes };
    await writeFile(`${target}.put-back.html`, pageOf(report));
    return report;
  } catch (error) {
    await rm(part, { recursive: true, force: true });
    throw error;
  } finally {
    copy.close();
  }
}

/** @param contents takes those that were made */
async function addSisters(
  copy: ArchiveCopy,
  contents: Map<string, string>,
  sisters: readonly Sister[],
  make: MakeSister | undefined,
): Promise<{ sisters: PutBackReport['sisters']; madeOf: Map<string, string> }> {
  const left: PutBackReport['sisters'] = [];
  const madeOf = new Map<string, string>();
  for (const sister of sisters) {
    const { name, of } = sister;
    const file = contents.get(of) ?? '';
    const made = make && (await make({ name: of, file }, { name, bytes: await copy.read(name) }));
    if (made && 'file' in made) {
      contents.set(name, made.file);
      madeOf.set(name, `Made of ${of}: ${made.says}.`);
    } else left.push({ ...sister, why: made?.reason ?? '' });
  }
  return { sisters: left, madeOf };
}

type Opener = (content: string) => ArchiveCopy;

/** @param path what it is called, where it has no name of its own yet */
function openCopy(source: string, path: string, sheets: readonly OpenSheet[]): ArchiveCopy {
  const found = statSync(source, { throwIfNoEntry: false });
  if (!found) throw new PlainError(`There is nothing at ${source}.`);
  if (found.isDirectory()) return new FolderCopy(source);
  const file = openSync(source, 'r');
  try {
    const format = containerOf((offset, length) => {
      const bytes = Buffer.alloc(length);
      return bytes.subarray(0, readSync(file, bytes, 0, length, offset));
    }, source);
    if (format === 'zip') return new ZipCopy(source);
    if (format === 'tar') return new TarCopy(source);
    const sheet =
      sheets.find(({ isFor }) => isFor(basename(path))) ?? (sheets.length === 1 ? sheets[0] : null);
    if (sheet) return new SheetCopy(sheet, source, path);
    throw new PlainError(
      `${source} is ${format === null ? 'no archive that is known' : `of format ${format}`}: files are put back into folders, ZIP, TAR, and containers that a sheet describes (--sheet, --title).`,
    );
  } finally {
    closeSync(file);
  }
}

function refuseTarget(source: string, target: string): void {
  if (statSync(target, { throwIfNoEntry: false }))
    throw new PlainError(`${target} is there already, and is not overwritten.`);
  const [from, to] = [resolve(source), resolve(target)];
  if (to === from || to.startsWith(`${from}/`))
    throw new PlainError(
      `${target} lies in ${source}, which is only read: choose another place for the copy.`,
    );
  if (!statSync(dirname(to), { throwIfNoEntry: false })?.isDirectory())
    throw new PlainError(`There is no folder ${dirname(to)} for the copy.`);
}

function refuseNames(wanted: readonly string[], names: readonly string[], source: string): void {
  const there = new Set(names);
  const lines = wanted
    .filter((name) => !there.has(name))
    .map((name) => {
      const near = nearestName(name, names);
      return near ? `${name} (${near.why}? ${near.name} is there)` : `${name} (nothing is called alike)`;
    });
  if (lines.length > 0)
    throw new PlainError(
      `${source} has no ${lines.join(', and no ')}. The game asks for exactly the names that are there: nothing was written.`,
    );
}

async function describe(copy: ArchiveCopy, name: string, file: string, lookAt: LookAt): Promise<PutBackFile> {
  const [before, now] = [await copy.read(name), readFileSync(file)];
  const remarks: string[] = [];
  if (before.equals(now)) remarks.push('It is the same as before.');
  const [was, is] = [before, now].map((bytes) => identify(bytes.subarray(0, 1024), name).format);
  if (was !== is) remarks.push(`It was of format ${was ?? ''}, and is of format ${is ?? ''} now.`);
  const [old, fresh] = [await lookAt(before, name), await lookAt(now, name)];
  if (old !== fresh && !before.equals(now))
    remarks.push(`It was ${old ?? 'not to be read'}, and is ${fresh ?? 'not to be read'} now.`);
  return {
    name,
    bytes: now.length,
    bytesBefore: before.length,
    sha256: hash(now),
    sha256Before: hash(before),
    remarks,
  };
}

function hash(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** Opens the copy again. @returns how many files are as they were @throws PlainError where anything else differs */
async function prove(
  open: Opener,
  source: string,
  copy: string,
  changed: ReadonlyMap<string, PutBackFile>,
): Promise<number> {
  const [before, after] = [open(source), open(copy)];
  try {
    const [names, now] = [await before.names(), await after.names()];
    if (names.length !== now.length || names.some((name, at) => name !== now[at]))
      throw new PlainError('The copy has other names than the original: it was thrown away.');
    const same = before instanceof ZipCopy ? await packedAreSame(source, copy) : null;
    for (const name of names) {
      const file = changed.get(name);
      const isRight = file
        ? hash(await after.read(name)) === file.sha256
        : (same?.has(name) ?? (await before.read(name)).equals(await after.read(name)));
      if (!isRight) throw new PlainError(`${name} is not what it should be in the copy: it was thrown away.`);
    }
    return names.length - changed.size;
  } finally {
    before.close();
    after.close();
  }
}

async function packedAreSame(source: string, copy: string): Promise<Set<string>> {
  const [a, b] = [new FileSource(source), new FileSource(copy)];
  try {
    const others = new Map((await listZip(b)).map((entry) => [entry.name, entry]));
    const same = (await listZip(a)).filter((entry) => {
      const other = others.get(entry.name);
      return other !== undefined && areSamePacked(a, entry, b, other);
    });
    return new Set(same.map(({ name }) => name));
  } finally {
    a.close();
    b.close();
  }
}

export function reportText({ copy, files, unchanged, sisters, notes }: PutBackReport): string {
  return [
    ...files.map(
      ({ name, bytes, bytesBefore, remarks }) =>
        `${name}  ${bytesText(bytesBefore)} → ${bytesText(bytes)}${remarks.map((remark) => `  ${remark}`).join('')}`,
    ),
    ...notes.map((note) => `${sentenceOf(note)}`),
    ...sisters.map(stayed),
    `${copy}: ${plural(files.length, 'file')} put back, ${plural(unchanged, 'file')} as they were. It was opened again, and nothing else differs.`,
  ].join('\n');
}

function stayed({ name, of, what, why }: PutBackReport['sisters'][number]): string {
  return `${name} stayed as it was: it is ${what} of ${of}${why === '' ? '' : `, and ${why}`}.`;
}

function sentenceOf(note: string): string {
  return `${note.charAt(0).toUpperCase()}${note.slice(1)}.`;
}

function pageOf(report: PutBackReport): string {
  const rows = report.files.map(
    ({ name, bytes, bytesBefore, sha256, sha256Before, remarks }) =>
      `<tr><td>${escaped(name)}</td><td class="number">${bytesText(bytesBefore)}</td><td class="number">${bytesText(bytes)}</td><td><small>${sha256Before}<br>${sha256}</small></td><td>${escaped(remarks.join(' '))}</td></tr>`,
  );
  return plainPage(
    'Put back',
    `<h1>Put back</h1>
<p>A copy of ${escaped(report.source)} with ${plural(report.files.length, 'file')} put back. It was opened again: ${plural(report.unchanged, 'file')} are as they were.</p>
<table>
<thead><tr><th>File</th><th class="number">Before</th><th class="number">Now</th><th>SHA-256 before and now</th><th>What to mind</th></tr></thead>
<tbody>
${rows.join('\n')}
</tbody>
</table>
${report.notes.map((note) => `<p>${escaped(sentenceOf(note))}</p>`).join('\n')}
${report.sisters.map((sister) => `<p>${escaped(stayed(sister))}</p>`).join('\n')}`,
  );
}
