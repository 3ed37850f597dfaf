import {
  closeSync,
  existsSync,
  linkSync,
  mkdirSync,
  openSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import {
  depotBuildsSchema,
  depotManifestSchema,
  type DepotBuilds,
  type DepotManifest,
} from '../../../contract/ways-in.ts';
import { checkEntryName } from '../../../core/containers/entry-name.ts';
import { findPathClash } from '../../../core/containers/path-clash.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { startHash } from '../../store/hash.ts';
import type { ContentStore } from '../../store/content-store.ts';
import { streamLocal } from '../../store/local-content.ts';
import { addressBeside, request, requestJson, folderUrl, retrying } from './fetch-whole.ts';
import { folderName } from './folder-name.ts';

export type DepotBuild = DepotBuilds['builds'][number];

/** The builds that a depot has, oldest first. @throws PlainError */
export async function listDepot(url: string, signal: AbortSignal): Promise<DepotBuild[]> {
  const { builds } = await requestJson(
    new URL('builds.json', folderUrl(url)).href,
    depotBuildsSchema,
    signal,
  );
  return builds;
}

export interface Fetched {
  /** The build, as a folder. */
  folder: string;
  fetched: { files: number; bytes: number };
  kept: { files: number; bytes: number };
}

/**
 * Brings a build of a depot into a working copy: a folder of links to contents that lie once, whatever builds hold them.
 * Only contents that neither the working copies nor the store have are fetched, and each is checked by its hash. Stopped at
 * any moment, it goes on where it was.
 * @throws PlainError with the file's path, where a content cannot be had or is not what the manifest says
 */
export async function fetchDepotBuild(
  { store, place }: { store: ContentStore; place: string },
  url: string,
  build: DepotBuild,
  signal: AbortSignal,
  onProgress: (done: { files: number; bytes: number }, total: { files: number; bytes: number }) => void,
): Promise<Fetched> {
  const base = folderUrl(url);
  const manifest = await requestJson(
    addressBeside(new URL('builds.json', base), build.manifest),
    depotManifestSchema,
    signal,
  );
  if (manifest.files.length === 0)
    throw new PlainError(`The depot's manifest of build ${build.label} names no files.`);
  const paths = manifest.files.map((file) => {
    const { path, refused } = checkEntryName(file.path);
    if (refused !== null)
      throw new PlainError(`The depot's manifest has a file that is refused: ${file.path}: ${refused}.`);
    return path;
  });
  const clash = findPathClash(paths);
  if (clash)
    throw new PlainError(`The depot's manifest of build ${build.label} cannot be a folder: ${clash}.`);
  const contents = join(place, 'contents');
  const folder = join(place, 'builds', folderName(build.label));
  mkdirSync(contents, { recursive: true });
  const total = {
    files: manifest.files.length,
    bytes: manifest.files.reduce((sum, { size }) => sum + size, 0),
  };
  const result: Fetched = { folder, fetched: { files: 0, bytes: 0 }, kept: { files: 0, bytes: 0 } };
  const done = { files: 0, bytes: 0 };
  for (const [at, file] of manifest.files.entries()) {
    signal.throwIfAborted();
    const path = paths[at] ?? file.path;
    const content = join(contents, file.blake3);
    const begun = done.bytes;
    const isHere = existsSync(content) && statSync(content).size === file.size;
    const isKept = isHere || (await copyFromStore(store, file.blake3, content));
    if (!isKept) {
      await retrying(signal, () =>
        fetchContent(new URL(`contents/${file.blake3}`, base).href, file, content, signal, (bytes) => {
          onProgress({ files: done.files, bytes: begun + bytes }, total);
        }),
      );
    }
    const counted = isKept ? result.kept : result.fetched;
    counted.files++;
    counted.bytes += file.size;
    linkInto(content, join(folder, path));
    done.files++;
    done.bytes = begun + file.size;
    onProgress(done, total);
  }
  dropOthers(folder, manifest);
  return result;
}

async function fetchContent(
  url: string,
  { path, size, blake3 }: DepotManifest['files'][number],
  place: string,
  signal: AbortSignal,
  onBytes: (bytes: number) => void,
): Promise<void> {
  const answer = await request(url, signal);
  await writeChecked(answer.pieces(), place, { path, size, blake3 }, onBytes);
}

/** Writes a content beside its place, and moves it there when its hash is right. */
async function writeChecked(
  pieces: AsyncIterable<Uint8Array> | Iterable<Uint8Array>,
  place: string,
  { path, size, blake3 }: DepotManifest['files'][number],
  onBytes: (bytes: number) => void,
): Promise<void> {
  const fresh = `${place}.new`;
  const file = openSync(fresh, 'w', 0o400);
  const hash = startHash();
  let length = 0;
  try {
    for await (const piece of pieces) {
      length += piece.length;
      if (length > size) break;
      hash.update(piece);
      for (let at = 0; at < piece.length;) at += writeSync(file, piece, at);
      onBytes(length);
    }
  } finally {
    closeSync(file);
  }
  if (length !== size || hash.digest().toString('hex') !== blake3) {
    rmSync(fresh, { force: true });
    throw new PlainError(`The depot gave other bytes for ${path} than its manifest says.`);
  }
  renameSync(fresh, place);
}

/** A leaf of an earlier build lies in the store already. */
async function copyFromStore(store: ContentStore, hash: string, place: string): Promise<boolean> {
  const content = (await store.ensureLocal([hash])).get(hash);
  if (!content) return false;
  await writeChecked(
    streamLocal(content),
    place,
    { path: hash, size: content.size, blake3: hash },
    () => undefined,
  );
  return true;
}

function linkInto(content: string, path: string): void {
  const there = statSync(path, { throwIfNoEntry: false });
  if (there?.ino === statSync(content).ino) return;
  rmSync(path, { force: true });
  mkdirSync(dirname(path), { recursive: true });
  linkSync(content, path);
}

/** What an earlier attempt left there, and the manifest does not have. */
function dropOthers(folder: string, manifest: DepotManifest): void {
  const wanted = new Set(manifest.files.map(({ path }) => join(folder, checkEntryName(path).path)));
  for (const item of readdirSync(folder, { withFileTypes: true, recursive: true })) {
    const path = join(item.parentPath, item.name);
    if (!item.isDirectory() && !wanted.has(path)) rmSync(path);
  }
}

/**
 * Takes away the working copies of builds that nobody needs any more, and contents that no working copy holds.
 * @param needed labels of the builds whose sources may be read again
 */
export function pruneWorkingCopies(place: string, needed: ReadonlySet<string>): void {
  const builds = join(place, 'builds');
  const keep = new Set([...needed].map(folderName));
  if (existsSync(builds))
    for (const name of readdirSync(builds))
      if (!keep.has(name)) rmSync(join(builds, name), { recursive: true });
  const contents = join(place, 'contents');
  if (!existsSync(contents)) return;
  for (const name of readdirSync(contents))
    if (statSync(join(contents, name)).nlink === 1) rmSync(join(contents, name));
}
