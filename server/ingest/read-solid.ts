import { ContainerError } from '../../core/containers/container-error.ts';
import type { ContainerFormat } from '../../core/containers/container-format.ts';
import { maximumEntries } from '../../core/containers/unpacking-budget.ts';
import { passphraseOf } from '../acquire/keyring/archive-key.ts';
import { LockedError } from './containers/locked-error.ts';
import { listSevenZip } from './containers/seven-zip.ts';
import { passingEntries, type PassingEntry } from './containers/solid.ts';
import { startHash } from '../store/hash.ts';
import { EntryFinder, endEarly } from './entry-finding.ts';
import { addLink } from './read-zip.ts';
import { otherReason, siblingPath } from './read-placed.ts';
import { spill } from './spill.ts';
import { countLeaf, type OpenContainer } from './unit-context.ts';

/** Reads a container from front to back, once. @returns what tells one packing of it from another */
export async function readSolid(container: OpenContainer, format: ContainerFormat): Promise<Buffer> {
  const { context, source, found } = container;
  const passphrases: (string | null)[] = [null];
  if (format === '7z') passphrases.push(...context.keys.flatMap((key) => passphraseOf(key) ?? []));
  for (const passphrase of passphrases) {
    try {
      return await readEntries(container, passingEntries(format, source, found.path, passphrase));
    } catch (error) {
      // It is told before the first entry.
      if (!(error instanceof LockedError)) throw error;
    }
  }
  // Only a 7z is ever locked as a whole.
  return listLocked(container, passphrases.length > 1);
}

async function readEntries(container: OpenContainer, entries: AsyncGenerator<PassingEntry>): Promise<Buffer> {
  const { context } = container;
  const finder = new EntryFinder(container);
  const digest = startHash();
  let count = 0;
  try {
    for await (const entry of entries) {
      if (++count > maximumEntries) throw new ContainerError('it has more entries than are read');
      digest.update(Buffer.from(`${JSON.stringify(entry.name)} ${entry.type} ${entry.size ?? ''}\n`));
      if (entry.type === 'folder') continue;
      await context.checkpoint();
      const named = finder.find(entry.name, entry.size);
      if (!named) continue;
      const { found, inner, refused } = named;
      // What is too much is not unpacked, and what follows it cannot be reached without.
      if (entry.size !== null) container.budget.spend(entry.size);
      try {
        if (refused !== null) throw new ContainerError(`it was refused: ${refused}`);
        if (entry.refused !== null) throw new ContainerError(entry.refused);
        if (entry.type === 'link') await addLink(container, found, inner, entry.target ?? '');
        else if (entry.type === 'hard link') {
          countLeaf(context, found);
          await context.recorder.addCopy(found, siblingPath(container.found, entry.target ?? ''));
        } else if (entry.type === 'other') throw new ContainerError(otherReason);
        else
          await spill(
            container,
            found,
            entry.body,
            entry.size,
            entry.size === null ? container.budget : null,
          );
      } catch (error) {
        await finder.listUnreadable(found, error);
      }
    }
  } catch (error) {
    endEarly(container, error, count);
  }
  return digest.digest();
}

/** Lists what a locked archive shows of itself. @throws LockedError where it shows nothing */
async function listLocked(container: OpenContainer, wereTried: boolean): Promise<Buffer> {
  const { source, context } = container;
  const finder = new EntryFinder(container);
  const digest = startHash();
  for (const { name, isFolder, size, crc } of await listSevenZip('7z', source.path ?? '', null)) {
    digest.update(Buffer.from(`${JSON.stringify(name)} ${size} ${crc ?? ''}\n`));
    if (isFolder) continue;
    await context.checkpoint();
    const named = finder.find(name, size);
    if (named) await finder.listUnreadable(named.found, new LockedError(wereTried));
  }
  return digest.digest();
}
