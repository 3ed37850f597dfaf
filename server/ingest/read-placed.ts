import { ContainerError } from '../../core/containers/container-error.ts';
import { checkEntryName, containerMark } from '../../core/containers/entry-name.ts';
import { placedListers, type PlacedFormat } from './containers/placed-listers.ts';
import { PartSource, type ByteSource } from './containers/byte-source.ts';
import type { PlacedEntry } from './containers/placed-entry.ts';
import { listTar } from './containers/tar.ts';
import { startHash } from '../store/hash.ts';
import { EntryFinder, endEarly } from './entry-finding.ts';
import { mostSisterBytes } from './read-by-sheet.ts';
import type { FoundAsset } from './recorder.ts';
import { addLink } from './read-zip.ts';
import type { OpenContainer } from './unit-context.ts';

/** Reads an archive that is not compressed in place, or the share of it that is this thread's. */
export async function readPlaced(container: OpenContainer, format: PlacedFormat): Promise<Buffer> {
  const list = placedListers[format];
  const { context, source, share } = container;
  const finder = new EntryFinder(container);
  const digest = startHash();
  const files = new HardLinkTargets(source);
  if (format === 'tar')
    container.another = (inner) => {
      const place = files.find(inner);
      return place && place.size <= mostSisterBytes ? source.read(place.offset, place.size) : null;
    };
  let count = 0;
  try {
    for (const entry of list(source)) {
      count++;
      digest.update(
        Buffer.from(`${JSON.stringify(entry.name)} ${entry.type} ${entry.size} ${entry.offset}\n`),
      );
      if (entry.type === 'folder') continue;
      const isMine = Math.floor((entry.headerOffset / source.size) * share.of) === share.index;
      if (isMine) await context.checkpoint();
      const named = finder.find(entry.name, entry.size, isMine);
      if (!named) continue;
      const { found, inner, refused } = named;
      try {
        if (refused !== null) throw new ContainerError(`it was refused: ${refused}`);
        if (entry.refused !== null) throw new ContainerError(entry.refused);
        await readEntry(container, found, inner, entry, files);
      } catch (error) {
        await finder.listUnreadable(found, error);
      }
    }
  } catch (error) {
    if (share.index > 0) return digest.digest();
    endEarly(container, error, count);
  }
  return digest.digest();
}

async function readEntry(
  container: OpenContainer,
  found: FoundAsset,
  inner: string,
  entry: PlacedEntry,
  files: HardLinkTargets,
): Promise<void> {
  const { source } = container;
  switch (entry.type) {
    case 'link':
      await addLink(container, found, inner, entry.target ?? '');
      return;
    case 'hard link': {
      const place = files.find(entry.target ?? '');
      if (!place)
        throw new ContainerError(`it is a hard link to ${entry.target ?? ''}, which the archive lacks`);
      const bytes = new PartSource(source, place.offset, place.size);
      await container.readInner({ ...found, size: place.size }, { bytes, file: null });
      return;
    }
    case 'other':
      throw new ContainerError(otherReason);
    default:
      await container.readInner(found, {
        bytes: new PartSource(source, entry.offset, entry.size),
        file: null,
      });
  }
}

export const otherReason = 'it is a device, a pipe or another thing without contents';

/** Where the files lie that hard links lead to: looked for when the first one is met, since most archives have none. */
class HardLinkTargets {
  private readonly source: ByteSource;
  private places: Map<string, { offset: number; size: number }> | null = null;

  constructor(source: ByteSource) {
    this.source = source;
  }

  find(name: string): { offset: number; size: number } | undefined {
    this.places ??= this.gather();
    return this.places.get(keyOf(name));
  }

  private gather(): Map<string, { offset: number; size: number }> {
    const places = new Map<string, { offset: number; size: number }>();
    for (const { name, type, offset, size, target } of listTar(this.source)) {
      if (type === 'file') places.set(keyOf(name), { offset, size });
      // A link to a link leads to the same place.
      const place = type === 'hard link' && target !== null ? places.get(keyOf(target)) : undefined;
      if (place) places.set(keyOf(name), place);
    }
    return places;
  }
}

function keyOf(name: string): string {
  return checkEntryName(name).path;
}

/** The path of another entry of the same container. */
export function siblingPath(container: FoundAsset, name: string): string {
  return (container.path === '' ? '' : container.path + containerMark) + keyOf(name);
}
