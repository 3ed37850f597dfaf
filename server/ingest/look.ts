import { join } from 'node:path';
import type { SeenContainer, SeenFolder, SeenSource } from '../../contract/look.ts';
import { Choice, parentOf, wholeChoice } from '../../core/containers/choice.ts';
import { ContainerError } from '../../core/containers/container-error.ts';
import { containerOf, type ContainerFormat } from '../../core/containers/container-format.ts';
import { checkEntryName, containerMark } from '../../core/containers/entry-name.ts';
import { asOnly } from './containers/as-only.ts';
import { FileSource, PartSource, type ByteSource } from './containers/byte-source.ts';
import { LockedError } from './containers/locked-error.ts';
import { placedListers } from './containers/placed-listers.ts';
import { programText } from './containers/program.ts';
import { listSevenZip } from './containers/seven-zip.ts';
import { listZip, packedPart } from './containers/zip.ts';
import { codeOf, messageOf } from '../platform/plain-error.ts';
import { findContentRoot } from './content-root.ts';
import { checkSource } from './source-path.ts';
import { lookAt, walkFolder } from './walk.ts';
import type { SourceFile } from './messages.ts';

const deepest = 4;
const listedFolders = 2000;

interface Directory {
  entries: number | null;
  unpackedBytes: number | null;
  lockedEntries: number;
  /** Containers that lie in it as they are, and can be looked into. */
  inner: { path: string; bytes: ByteSource }[];
}

/**
 * Tells what lies where in a source: heads and directories are read, and no contents. For a thread of its own, or a command.
 * @throws PlainError when the source is not there
 */
export async function lookInto(source: string): Promise<SeenSource> {
  const startMs = Date.now();
  const kind = checkSource(source);
  const contentRoot = await findContentRoot(source, kind, null, true);
  const place = kind === 'folder' ? join(source, contentRoot) : source;
  const seen: SeenSource = {
    source,
    kind,
    contentRoot,
    files: 0,
    bytes: 0,
    containers: [],
    folders: [],
    problems: [],
    seconds: 0,
  };
  const folders = new Map<string, SeenFolder>();
  const note = async (file: SourceFile): Promise<void> => {
    seen.files++;
    seen.bytes += file.size;
    for (let at = parentOf(file.path); at !== null; at = parentOf(at)) {
      const folder = folders.get(at) ?? { path: at, files: 0, bytes: 0 };
      folder.files++;
      folder.bytes += file.size;
      folders.set(at, folder);
    }
    await lookIntoFile(place, file, seen);
  };
  if (kind === 'file') await note(lookAt(source, ''));
  else {
    for (const part of walkFolder(place, new Choice(wholeChoice))) {
      seen.problems.push(...part.problems);
      for (const file of part.files) await note(file);
    }
  }
  seen.containers.sort(bySize);
  seen.folders = [...folders.values()].sort(bySize).slice(0, listedFolders);
  seen.seconds = Math.round(Date.now() - startMs) / 1000;
  return seen;
}

function bySize(a: { bytes: number; path: string }, b: { bytes: number; path: string }): number {
  return b.bytes - a.bytes || (a.path < b.path ? -1 : 1);
}

async function lookIntoFile(place: string, { path, rawPath }: SourceFile, seen: SeenSource): Promise<void> {
  let file: FileSource;
  try {
    file = new FileSource(
      rawPath ? Buffer.concat([Buffer.from(`${place}/`), Buffer.from(rawPath, 'hex')]) : join(place, path),
    );
  } catch (error) {
    seen.problems.push({ path, reason: `it cannot be read: ${codeOf(error) || messageOf(error)}` });
    return;
  }
  try {
    await lookIntoBytes(path, file, seen, 1);
  } finally {
    file.close();
  }
}

async function lookIntoBytes(
  path: string,
  bytes: ByteSource,
  seen: SeenSource,
  depth: number,
): Promise<void> {
  const format = containerOf((offset, length) => bytes.read(offset, length), path);
  if (!format) return;
  const container: SeenContainer = {
    path,
    format,
    bytes: bytes.size,
    entries: null,
    unpackedBytes: null,
    lock: 'open',
    reason: null,
  };
  seen.containers.push(container);
  try {
    const { entries, unpackedBytes, lockedEntries, inner } = await readDirectory(format, bytes);
    Object.assign(container, { entries, unpackedBytes });
    if (lockedEntries > 0) container.lock = lockedEntries === entries ? 'locked' : 'partly locked';
    if (depth === deepest) return;
    const prefix = path === '' ? '' : path + containerMark;
    for (const { path: name, bytes: part } of inner) {
      const { path: checked, refused } = checkEntryName(name);
      if (refused === null) await lookIntoBytes(prefix + checked, part, seen, depth + 1);
    }
  } catch (error) {
    if (!(error instanceof ContainerError)) throw error;
    if (error instanceof LockedError) container.lock = 'locked';
    else container.reason = error.message;
  }
}

async function readDirectory(format: ContainerFormat, bytes: ByteSource): Promise<Directory> {
  const directory = { entries: 0, unpackedBytes: 0, lockedEntries: 0, inner: [] as Directory['inner'] };
  const count = (size: number, isLocked: boolean): void => {
    directory.entries++;
    directory.unpackedBytes += size;
    if (isLocked) directory.lockedEntries++;
  };
  switch (format) {
    case 'zip':
      for (const entry of await listZip(bytes)) {
        if (entry.isFolder) continue;
        count(entry.unpackedBytes, entry.isEncrypted);
        const isPlain = entry.method === 0 && !entry.isEncrypted && entry.unpackedBytes === entry.packedBytes;
        if (isPlain && looksLikeContainer(entry.name))
          directory.inner.push({ path: entry.name, bytes: packedPart(bytes, entry) });
      }
      return directory;
    case 'tar':
    case 'ar':
    case 'cpio':
      for (const entry of placedListers[format](bytes)) {
        if (entry.type === 'folder') continue;
        count(entry.size, false);
        if (entry.type === 'file' && looksLikeContainer(entry.name))
          directory.inner.push({ path: entry.name, bytes: new PartSource(bytes, entry.offset, entry.size) });
      }
      return directory;
    case '7z':
    case 'udf':
      // 7zz reads from files only: one that lies in another archive is not looked into.
      if (bytes.path === null) return { ...directory, entries: null, unpackedBytes: null };
      for (const entry of await listSevenZip(format, bytes.path, null))
        if (!entry.isFolder) count(entry.size, entry.isLocked);
      return directory;
    case 'iso':
    case 'cab': {
      const lines = await programText({
        program: 'bsdtar',
        args: ['-tvf', '-'],
        input: asOnly(format, bytes),
      });
      for (const line of lines.split('\n')) {
        const size = /^[^d\s]\S*\s+\d+\s+\S+\s+\S+\s+(\d+)\s/.exec(line)?.[1];
        if (size !== undefined) count(Number(size), false);
      }
      return directory;
    }
    default:
      return { ...directory, entries: null, unpackedBytes: null };
  }
}

/** Heads of all entries would be a reading: what has a picture's or a sound's name is passed over. */
function looksLikeContainer(name: string): boolean {
  return !/\.(png|jpe?g|webp|gif|dds|ktx2?|tga|wav|ogg|flac|mp3|opus|glb|gltf|obj|json|txt|xml|csv|ini|svg|ttf|otf|woff2?)$/i.test(
    name,
  );
}
