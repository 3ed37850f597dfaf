import { setImmediate } from 'node:timers/promises';
import type { FormatTrial } from '../../../contract/format-trials.ts';
import type { SheetFiles, SheetFit } from '../../../contract/kept-sheets.ts';
import { isSameReason } from '../../../core/formats/fit.ts';
import type { OpenSheet } from '../../../core/formats/open-sheet.ts';
import { compileNameGlob } from '../../../core/globs.ts';
import { sentence } from '../../../core/formats/by-sheet.ts';
import { SheetError } from '../../../core/formats/language/sheet-error.ts';
import { trySheet } from '../../../core/formats/try-sheet.ts';
import { openedSheet } from '../../decode/opened-sheets.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { LocalReader } from '../../store/local-content.ts';
import { pathBeside } from '../references/find-file.ts';
import type { BuildLibrary } from '../build-library.ts';
import { hashAt } from '../search/text-tables.ts';
import type { Questions } from '../questions.ts';

/** Larger files are counted and not tried. */
const mostBytes = 64 * 1024 * 1024;
/** A question is answered after so long, with what has been tried until then: whoever asks goes on from there, or stops. */
const turnMs = 1500;
const shownPaths = 20;
const mostReasons = 100;
const mostListed = 500;

/** Reading one file may take so much of the thread: others wait so long. */
const limits = { steps: 20_000_000, bytes: 256 * 1024 * 1024, depth: 64, milliseconds: 1000 };

interface FoundFile {
  path: string;
  hash: string;
}

/** Files of a build that patterns find; looked for once, since a fit asks again and again. */
const foundFiles = new WeakMap<BuildLibrary, Map<string, FoundFile[]>>();

function filesFor(library: BuildLibrary, patterns: readonly string[]): FoundFile[] {
  const key = JSON.stringify(patterns);
  const known = foundFiles.get(library)?.get(key);
  if (known) return known;
  const matches = patterns.map(compileNameGlob);
  const { index, tables } = library.searchable;
  const found: FoundFile[] = [];
  for (let number = 0; number < index.size; number++) {
    const span = library.spanOf(number);
    const path = span < 0 ? '' : index.path(number);
    if (span >= 0 && matches.some((isFound) => isFound(path)))
      found.push({ path, hash: hashAt(tables.hashes, span) });
  }
  foundFiles.set(library, new Map([[key, found]]));
  return found;
}

/** Files of a build that a sheet is for, the first of them by name. */
export function answerSheetFiles(
  library: BuildLibrary,
  { patterns }: Questions['sheetFiles']['parameters'],
): SheetFiles {
  const found = filesFor(library, patterns);
  return { count: found.length, paths: found.slice(0, mostListed).map(({ path }) => path) };
}

/** Tries a sheet on files of a build that its patterns find, from one of them on, for a while. @throws PlainError where the sheet cannot be used */
export async function answerFit(
  library: BuildLibrary,
  store: ContentStore,
  { text, from, version, keys }: Questions['fitSheet']['parameters'],
): Promise<SheetFit> {
  const open = openedSheet(text);
  const found = filesFor(library, [open.sheet.files].flat());
  const fit: SheetFit = { files: found.length, versions: [], failures: [], left: 0, next: null };
  const end = Date.now() + turnMs;
  const reader = new LocalReader();
  try {
    for (let at = from; at < found.length; at += 50) {
      const batch = found.slice(at, at + 50);
      const contents = await store.ensureLocal(batch.map(({ hash }) => hash));
      for (const [place, { path, hash }] of batch.entries()) {
        // Whoever asks the thread something else has a turn between two files.
        await setImmediate();
        if (Date.now() > end && at + place > from) return { ...fit, next: at + place };
        const content = contents.get(hash);
        if (!content || content.size > mostBytes) {
          fit.left++;
          continue;
        }
        const resolve = async (name: string): Promise<Uint8Array | null> => {
          const number = library.numberOf(pathBeside(path, name));
          const sister = number < 0 ? null : hashAt(library.searchable.tables.hashes, library.spanOf(number));
          const there = sister === null ? undefined : (await store.ensureLocal([sister])).get(sister);
          return there && there.size <= mostBytes ? reader.read(there) : null;
        };
        const file = { bytes: reader.read(content), path, resolve, keys };
        const trial = await trySheet(open, file, version, limits);
        addTrial(fit, open, trial);
      }
    }
  } finally {
    reader.close();
  }
  return fit;
}

function addTrial(fit: SheetFit, open: OpenSheet, { path, version, tried }: FormatTrial): void {
  if (version !== null) {
    const known = fit.versions.find((one) => one.version === version);
    if (known) known.files++;
    else fit.versions.push({ version, files: 1 });
    return;
  }
  const error = tried[0]?.error;
  if (!error) return;
  const where = error.where.replaceAll(/\[\d+\]/g, '[]');
  const reason = sentence(open, new SheetError(error.message, null, where));
  const failure = fit.failures.find((one) => isSameReason(one.reason, reason));
  if (failure) {
    failure.files++;
    if (failure.paths.length < shownPaths) failure.paths.push(path);
  } else if (fit.failures.length < mostReasons) fit.failures.push({ reason, files: 1, paths: [path] });
  else fit.left++;
}
