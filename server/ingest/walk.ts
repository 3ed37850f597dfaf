import { lstatSync, readdirSync, readlinkSync, type Dirent, type Stats } from 'node:fs';
import { join } from 'node:path';
import type { Choice } from '../../core/containers/choice.ts';
import { linkStaysInside, nameOfBytes } from '../../core/containers/entry-name.ts';
import { isSettled, signatureOf } from './containers/file-signature.ts';
import { codeOf, messageOf } from '../platform/plain-error.ts';
import type { LeftOut, SourceFile, SourceLink, SourceProblem } from './messages.ts';

export interface WalkedPart {
  files: SourceFile[];
  links: SourceLink[];
  problems: SourceProblem[];
  leftOut: LeftOut;
}

const partSize = 1000;

interface Folder {
  path: string;
  /** As the system has it, where it is not UTF-8. */
  raw: Buffer | null;
}

/**
 * Goes through a folder and hands out what it finds in parts of a thousand. Links are recorded and never
 * followed; a link out of the tree is a problem as well. What is neither file, folder nor link (a socket, a
 * device) is a problem. Names that are not UTF-8 are written with their bytes in hex. Synchronous: for a worker thread.
 */
export function* walkFolder(root: string, choice: Choice): Generator<WalkedPart> {
  let part = emptyPart();
  const folders: Folder[] = [{ path: '', raw: null }];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    let items: NamedItem[];
    try {
      items = listFolder(root, folder);
    } catch (error) {
      part.problems.push({
        path: folder.path,
        reason: `the folder cannot be listed: ${codeOf(error) || messageOf(error)}`,
      });
      continue;
    }
    for (const { item, name, raw } of items) {
      const path = folder.path === '' ? name : `${folder.path}/${name}`;
      if (item.isDirectory()) {
        if (choice.isOpened(path)) folders.push({ path, raw });
        else leaveOutFolder(root, { path, raw }, part);
      } else {
        look(root, { path, raw }, item, part, choice);
      }
      if (part.files.length + part.links.length + part.problems.length >= partSize) {
        yield part;
        part = emptyPart();
      }
    }
  }
  yield part;
}

function emptyPart(): WalkedPart {
  return { files: [], links: [], problems: [], leftOut: { files: 0, bytes: 0 } };
}

interface NamedItem {
  item: Dirent | Dirent<Buffer>;
  name: string;
  raw: Buffer | null;
}

/** Asks for names as text, and once more for bytes where one of them is none. */
function listFolder(root: string, { path, raw }: Folder): NamedItem[] {
  if (raw === null) {
    const items = readdirSync(join(root, path), { withFileTypes: true });
    if (!items.some(({ name }) => name.includes('\ufffd')))
      return items.map((item) => ({ item, name: item.name, raw }));
  }
  const folder = raw ?? Buffer.from(path);
  return readdirSync(rawPlace(root, folder), { withFileTypes: true, encoding: 'buffer' }).map((item) => ({
    item,
    name: nameOfBytes(item.name),
    raw: folder.length === 0 ? item.name : Buffer.concat([folder, Buffer.from('/'), item.name]),
  }));
}

function rawPlace(root: string, raw: Buffer): Buffer {
  return Buffer.concat([Buffer.from(`${root}/`), raw]);
}

function placeOf(root: string, { path, raw }: Folder): string | Buffer {
  return raw ? rawPlace(root, raw) : join(root, path);
}

/** @throws the system's error when the file is not there */
export function lookAt(root: string, path: string): SourceFile {
  return fileOf(path, lstatSync(join(root, path)));
}

function fileOf(path: string, stat: Stats): SourceFile {
  return { path, size: stat.size, signature: signatureOf(stat), isSettled: isSettled(stat) };
}

function look(root: string, at: Folder, item: NamedItem['item'], part: WalkedPart, choice: Choice): void {
  const { path, raw } = at;
  const place = placeOf(root, at);
  try {
    // A container is gone into where something in it may be wanted.
    if (!choice.isOpened(path)) {
      part.leftOut.files++;
      part.leftOut.bytes += lstatSync(place).size;
    } else if (item.isSymbolicLink()) {
      const target = nameOfBytes(readlinkSync(place, { encoding: 'buffer' }));
      part.links.push({ path, target });
      if (!linkStaysInside(path, target))
        part.problems.push({ path, reason: `it is a link out of the tree, to ${target}` });
    } else if (item.isFile()) {
      const file = fileOf(path, lstatSync(place));
      part.files.push(raw ? { ...file, rawPath: raw.toString('hex') } : file);
    } else {
      part.problems.push({ path, reason: 'it is neither a file, a folder nor a link' });
    }
  } catch (error) {
    part.problems.push({ path, reason: `it cannot be looked at: ${codeOf(error) || messageOf(error)}` });
  }
}

/** Counts what is in a folder that is not wanted, without looking at its files' bytes. */
function leaveOutFolder(root: string, folder: Folder, part: WalkedPart): void {
  const folders = [folder];
  for (let at = folders.pop(); at !== undefined; at = folders.pop()) {
    try {
      for (const { item, name, raw } of listFolder(root, at)) {
        const inner = { path: `${at.path}/${name}`, raw };
        if (item.isDirectory()) folders.push(inner);
        else if (item.isFile()) {
          part.leftOut.files++;
          part.leftOut.bytes += lstatSync(placeOf(root, inner)).size;
        }
      }
    } catch {
      // What cannot be listed is not counted: it was not wanted.
    }
  }
}
