import { setImmediate } from 'node:timers/promises';
import type { SheetFit } from '../../../contract/kept-sheets.ts';
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

/** More files, or larger ones, are counted and not tried. */
const mostFiles = 20_000;
const mostBytes = 64 * 1024 * 1024;
const mostSeconds = 60;
const shownPaths = 20;

/** Reading one file may take so much of the thread: others wait so long. */
const limits = { steps: 20_000_000, bytes: 256 * 1024 * 1024, depth: 64, milliseconds: 1000 };

/** Tries a sheet on all files of a build that its patterns find. @throws PlainError where the sheet cannot be used */
export async function answerFit(
  library: BuildLibrary,
  store: ContentStore,
  { text }: Questions['fitSheet']['parameters'],
): Promise<SheetFit> {
  const open = openedSheet(text);
  const { index, tables } = library.searchable;
  const found: { path: string; hash: string }[] = [];
  for (let number = 0; number < index.size; number++) {
    const span = library.spanOf(number);
    const path = span < 0 ? '' : index.path(number);
    if (span >= 0 && open.isFor(path)) found.push({ path, hash: hashAt(tables.hashes, span) });
  }
  const versions = new Map<string, number>();
  const failures = new Map<string, SheetFit['failures'][number]>();
  const end = Date.now() + mostSeconds * 1000;
  const reader = new LocalReader();
  let tried = 0;
  let large = 0;
  try {
    for (let from = 0; from < Math.min(found.length, mostFiles) && Date.now() < end; from += 200) {
      const batch = found.slice(from, Math.min(from + 200, mostFiles));
      const contents = await store.ensureLocal(batch.map(({ hash }) => hash));
      for (const { path, hash } of batch) {
        if (Date.now() > end) break;
        // Whoever asks the thread something else has a turn between two files.
        await setImmediate();
        tried++;
        const content = contents.get(hash);
        if (!content || content.size > mostBytes) {
          large++;
          continue;
        }
        const resolve = async (name: string): Promise<Uint8Array | null> => {
          const number = library.numberOf(pathBeside(path, name));
          const sister = number < 0 ? null : hashAt(tables.hashes, library.spanOf(number));
          const there = sister === null ? undefined : (await store.ensureLocal([sister])).get(sister);
          return there && there.size <= mostBytes ? reader.read(there) : null;
        };
        const trial = await trySheet(open, { bytes: reader.read(content), path, resolve }, null, limits);
        if (trial.version !== null) {
          versions.set(trial.version, (versions.get(trial.version) ?? 0) + 1);
          continue;
        }
        const error = trial.tried[0]?.error;
        if (!error) continue;
        const where = error.where.replaceAll(/\[\d+\]/g, '[]');
        const reason = sentence(open, new SheetError(error.message, null, where));
        // Files that differ in numbers alone fail for one reason: the first of them stands for all.
        const key = reason.replaceAll(/\b(0x[0-9A-F]+|[\d,]+)\b/g, '#');
        const failure = failures.get(key) ?? { reason, files: 0, paths: [] };
        failure.files++;
        if (failure.paths.length < shownPaths) failure.paths.push(path);
        failures.set(key, failure);
      }
    }
  } finally {
    reader.close();
  }
  return {
    files: found.length,
    versions: [...versions].map(([version, files]) => ({ version, files })).sort((a, b) => b.files - a.files),
    failures: [...failures.values()].sort((a, b) => b.files - a.files).slice(0, 100),
    left: found.length - tried + large,
  };
}
