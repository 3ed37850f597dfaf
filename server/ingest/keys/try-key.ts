import { containerOf, type ContainerFormat } from '../../../core/containers/container-format.ts';
import { checkEntryName } from '../../../core/containers/entry-name.ts';
import { UnpackingBudget } from '../../../core/containers/unpacking-budget.ts';
import { passphraseOf, type ArchiveKey } from '../../acquire/keyring/archive-key.ts';
import { FileSource, MemorySource, PartSource, type ByteSource } from '../containers/byte-source.ts';
import { LockedError } from '../containers/locked-error.ts';
import { readSevenZip } from '../containers/seven-zip.ts';
import { LockedZip } from '../containers/zip-locked.ts';
import { listTar } from '../containers/tar.ts';
import { isQuick, listZip, unpackEntry } from '../containers/zip.ts';

/** What a quick try of a key told: numbers of the files, as they were given. */
export interface KeyTrial {
  opens: number[];
  refuses: number[];
  /** What is locked lies deeper, or cannot be looked at: only reading tells. */
  unknown: number[];
}

/** Something locked: a file of a source, and the way from there to the container that is locked. */
export interface LockedPlace {
  file: string;
  /** Names of the containers in it, from the outermost to the one that is locked; none where it is the file itself. */
  inner: readonly string[];
}

/** Tries a key on the first locked thing of each place. */
export async function tryKey(places: readonly LockedPlace[], key: Uint8Array): Promise<KeyTrial> {
  const trial: KeyTrial = { opens: [], refuses: [], unknown: [] };
  for (const [index, place] of places.entries()) {
    const outcome = await tryOn(place, { id: 0, bytes: key });
    trial[outcome].push(index);
  }
  return trial;
}

async function tryOn({ file, inner }: LockedPlace, key: ArchiveKey): Promise<keyof KeyTrial> {
  let source: FileSource | null = null;
  try {
    source = new FileSource(file);
    let bytes: ByteSource | null = source;
    for (const name of inner) bytes = bytes && (await innerBytes(bytes, name));
    if (!bytes) return 'unknown';
    const format = formatOf(bytes, inner.at(-1) ?? file);
    if (format === 'zip') return await tryZip(bytes, key);
    if (format === '7z' && bytes.path !== null) return await trySevenZip(bytes, key);
    return 'unknown';
  } catch {
    // It is not there any more, or damaged: reading it will say so.
    return 'unknown';
  } finally {
    source?.close();
  }
}

function formatOf(bytes: ByteSource, name: string): ContainerFormat | null {
  return containerOf((offset, length) => bytes.read(offset, length), name);
}

/** An entry that can be had at once; null where it cannot. */
async function innerBytes(bytes: ByteSource, name: string): Promise<ByteSource | null> {
  const format = formatOf(bytes, '');
  const isIt = (entry: { name: string }): boolean => checkEntryName(entry.name).path === name;
  if (format === 'tar') {
    for (const entry of listTar(bytes))
      if (isIt(entry)) return new PartSource(bytes, entry.offset, entry.size);
    return null;
  }
  const entry = format === 'zip' ? (await listZip(bytes)).find(isIt) : undefined;
  if (!entry || entry.isEncrypted || !isQuick(entry) || entry.unpackedBytes > triedBytes) return null;
  return new MemorySource(Uint8Array.from(unpackEntry(bytes, entry, new UnpackingBudget(bytes.size))));
}

const triedBytes = 64 * 1024 * 1024;

async function tryZip(source: ByteSource, key: ArchiveKey): Promise<keyof KeyTrial> {
  const locked = (await listZip(source)).filter(
    ({ isEncrypted, unpackedBytes }) => isEncrypted && unpackedBytes > 0,
  );
  const smallest = locked.reduce(
    (least, entry) => (entry.packedBytes < (least?.packedBytes ?? Infinity) ? entry : least),
    locked[0],
  );
  if (!smallest) return 'unknown';
  const zip = new LockedZip(source, [key]);
  try {
    if ((await zip.keysFor(smallest)).length === 0) return 'refuses';
    // A wrong key passes the format's own check by chance: the checksum tells.
    try {
      for await (const piece of zip.stream(smallest, key)) void piece;
      return 'opens';
    } catch {
      return 'refuses';
    }
  } finally {
    await zip.close();
  }
}

async function trySevenZip(source: ByteSource, key: ArchiveKey): Promise<keyof KeyTrial> {
  const passphrase = passphraseOf(key);
  if (passphrase === null) return 'refuses';
  const entries = readSevenZip('7z', source, passphrase);
  try {
    await entries.next();
    return 'opens';
  } catch (error) {
    if (error instanceof LockedError) return 'refuses';
    throw error;
  } finally {
    await entries.return(undefined);
  }
}
