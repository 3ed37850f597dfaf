import { lstatSync, readFileSync, realpathSync } from 'node:fs';
import { dirname, join, posix, sep } from 'node:path';
import { ContainerError } from '../../core/containers/container-error.ts';
import { containerMark } from '../../core/containers/entry-name.ts';
import { bySheet } from '../../core/formats/by-sheet.ts';
import { openSheet, type OpenSheet } from '../../core/formats/open-sheet.ts';
import { isReadError } from '../../core/kinds/reading.ts';
import { codeOf } from '../platform/plain-error.ts';
import { MemorySource } from './containers/byte-source.ts';
import { EntryFinder } from './entry-finding.ts';
import type { OpenContainer, UnitContext } from './unit-context.ts';

/** A sheet sees all of a file at once. */
const mostContainerBytes = 1024 ** 3;
export const mostSisterBytes = 256 * 1024 ** 2;

/** Those that can be used: whoever kept one was told what is wrong with it. */
export function openSheets(texts: readonly string[]): OpenSheet[] {
  return texts.flatMap((text) => {
    const opened = openSheet(text);
    return 'sheet' in opened && opened.sheet.result.entries ? [opened.sheet] : [];
  });
}

export function sheetFor({ containerSheets }: UnitContext, path: string): OpenSheet | undefined {
  return containerSheets.find(({ isFor }) => isFor(path));
}

/** Reads what a sheet finds in a container. @param outer the archive that it lies in, where it does @throws ContainerError where it does not fit, or is too large */
export async function readBySheet(
  container: OpenContainer,
  sheet: OpenSheet,
  outer: OpenContainer | null,
): Promise<void> {
  const { context, found, source, budget } = container;
  if (source.size > mostContainerBytes)
    throw new ContainerError('it is larger than 1 GiB, and a sheet sees all of a file at once');
  const finder = new EntryFinder(container);
  const file = bySheet(sheet, context.formatVersions[sheet.sheet.sheet] ?? null, {
    ...{ bytes: source.read(0, source.size), path: found.path },
    resolve: async (name) => anotherIn(outer, found.path, name) ?? (await context.sister(found.path, name)),
    keys: context.keys.map((key) => key.bytes),
  });
  const entries = await unlessMisfit(() => file.entries());
  for (const entry of entries) {
    await context.checkpoint();
    const named = finder.find(entry.name, entry.packedSize);
    if (!named) continue;
    try {
      if (named.refused !== null) throw new ContainerError(`it was refused: ${named.refused}`);
      const bytes = await unlessMisfit(() => file.entryBytes(entry));
      budget.spend(bytes.length);
      await container.readInner(
        { ...named.found, size: bytes.length },
        { bytes: new MemorySource(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length)), file: null },
      );
    } catch (error) {
      await finder.listUnreadable(named.found, error);
    }
  }
}

/** A file beside one that lies in an archive, out of the archive itself. */
function anotherIn(outer: OpenContainer | null, path: string, name: string): Uint8Array | null {
  if (!outer?.another) return null;
  const { found, context } = outer;
  // What lies in a source that is itself an archive has no container in its path.
  const isSource = found.path === '';
  const inner = isSource ? path : path.slice(found.path.length + containerMark.length);
  const beside = posix.join(posix.dirname(inner), name.replaceAll('\\', '/'));
  return outer.another(isSource && context.contentRoot !== '' ? `${context.contentRoot}/${beside}` : beside);
}

async function unlessMisfit<Made>(make: () => Promise<Made>): Promise<Made> {
  try {
    return await make();
  } catch (error) {
    if (!isReadError(error)) throw error;
    throw new ContainerError(error.message);
  }
}

/** Finds files beside others in a source that is a folder: plain files of its own, and nothing that a link leads to outside. */
export function sisterIn(source: string): UnitContext['sister'] {
  return async (path, name) => {
    if (path.includes(containerMark)) return Promise.resolve(null);
    try {
      const place = join(source, dirname(path), name.replaceAll('\\', '/'));
      const status = lstatSync(place);
      const isInside = realpathSync(place).startsWith(realpathSync(source) + sep);
      if (!status.isFile() || !isInside || status.size > mostSisterBytes) return null;
      return readFileSync(place);
    } catch (error) {
      if (
        ['ENOENT', 'ENOTDIR', 'EACCES', 'ELOOP', 'ENAMETOOLONG', 'ERR_INVALID_ARG_VALUE'].includes(
          codeOf(error),
        )
      )
        return null;
      throw error;
    }
  };
}
