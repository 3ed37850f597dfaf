import { lstatSync, readdirSync, readlinkSync, type Dirent } from 'node:fs';
import { join } from 'node:path';
import { linkStaysInside } from '../../core/containers/entry-name.ts';
import { isSettled, signatureOf } from '../containers/file-signature.ts';
import { codeOf, messageOf } from '../plain-error.ts';
import type { SourceFile, SourceLink, SourceProblem } from './messages.ts';

export interface WalkedPart {
  files: SourceFile[];
  links: SourceLink[];
  problems: SourceProblem[];
}

const partSize = 1000;

/**
 * Goes through a folder and hands out what it finds in parts of a thousand. Links are recorded and never
 * followed; a link out of the tree is a problem as well. What is neither file, folder nor link (a socket, a
 * device) is a problem. Synchronous: for a worker thread.
 */
export function* walkFolder(root: string): Generator<WalkedPart> {
  let part: WalkedPart = { files: [], links: [], problems: [] };
  const folders = [''];
  for (let folder = folders.pop(); folder !== undefined; folder = folders.pop()) {
    let items: Dirent[];
    try {
      items = readdirSync(join(root, folder), { withFileTypes: true });
    } catch (error) {
      part.problems.push({
        path: folder,
        reason: `the folder cannot be listed: ${codeOf(error) || messageOf(error)}`,
      });
      continue;
    }
    for (const item of items) {
      const path = folder === '' ? item.name : `${folder}/${item.name}`;
      if (item.isDirectory()) folders.push(path);
      else look(root, path, item, part);
      if (part.files.length + part.links.length + part.problems.length >= partSize) {
        yield part;
        part = { files: [], links: [], problems: [] };
      }
    }
  }
  yield part;
}

/** @throws the system's error when the file is not there */
export function lookAt(root: string, path: string): SourceFile {
  const stat = lstatSync(join(root, path));
  return { path, size: stat.size, signature: signatureOf(stat), isSettled: isSettled(stat) };
}

function look(root: string, path: string, item: Dirent, part: WalkedPart): void {
  if (item.name.includes('\ufffd')) {
    part.problems.push({ path, reason: 'its name is not valid UTF-8' });
    return;
  }
  try {
    if (item.isSymbolicLink()) {
      const target = readlinkSync(join(root, path));
      part.links.push({ path, target });
      if (!linkStaysInside(path, target))
        part.problems.push({ path, reason: `it is a link out of the tree, to ${target}` });
    } else if (item.isFile()) {
      part.files.push(lookAt(root, path));
    } else {
      part.problems.push({ path, reason: 'it is neither a file, a folder nor a link' });
    }
  } catch (error) {
    part.problems.push({ path, reason: `it cannot be looked at: ${codeOf(error) || messageOf(error)}` });
  }
}
