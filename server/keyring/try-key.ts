import { containerOf } from '../../core/containers/container-format.ts';
import { passphraseOf, type ArchiveKey } from '../containers/archive-key.ts';
import { FileSource, type ByteSource } from '../containers/byte-source.ts';
import { LockedError } from '../containers/locked-error.ts';
import { readSevenZip } from '../containers/seven-zip.ts';
import { LockedZip } from '../containers/zip-locked.ts';
import { listZip } from '../containers/zip.ts';

/** What a quick try of a key told: numbers of the files, as they were given. */
export interface KeyTrial {
  opens: number[];
  refuses: number[];
  /** What is locked lies deeper, or cannot be looked at: only reading tells. */
  unknown: number[];
}

/** Tries a key on the first locked thing of each file. */
export async function tryKey(files: readonly string[], key: Uint8Array): Promise<KeyTrial> {
  const trial: KeyTrial = { opens: [], refuses: [], unknown: [] };
  for (const [index, path] of files.entries()) {
    const outcome = await tryOn(path, { id: 0, bytes: key });
    trial[outcome].push(index);
  }
  return trial;
}

async function tryOn(path: string, key: ArchiveKey): Promise<keyof KeyTrial> {
  let source: FileSource | null = null;
  try {
    source = new FileSource(path);
    const bytes: ByteSource = source;
    const format = containerOf((offset, length) => bytes.read(offset, length), path);
    if (format === 'zip') return await tryZip(bytes, key);
    if (format === '7z') return await trySevenZip(bytes, key);
    return 'unknown';
  } catch {
    // It is not there any more, or damaged: reading it will say so.
    return 'unknown';
  } finally {
    source?.close();
  }
}

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
  const entries = readSevenZip(source, passphrase);
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
