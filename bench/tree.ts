import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { zipSync, type Zippable } from 'fflate';
import { seedOf, seeded } from '../demo/seeded.ts';

export interface TreeSize {
  files: number;
  bytes: number;
  /** Files in one archive. */
  filesPerArchive: number;
  /** Share of the files that lie in folders, from 0 to 1. */
  looseShare?: number;
  /** Extensions, one after the other. */
  extensions?: readonly string[];
}

/** Sounds and tables: all but every sixth file has a reader. */
const readExtensions = ['wav', 'json', 'bin', 'wav', 'csv', 'dat'];
/** As most of a game's bytes are: data that no reader knows, of which half compress; a tenth are sounds, a tenth tables. */
export const mostlyUnread = ['bin', 'tex', 'bin', 'tex', 'wav', 'bin', 'tex', 'bin', 'tex', 'json'];

interface Item {
  path: string;
  /** Names the content: another seed, another content. */
  seed: string;
  size: number;
}

/**
 * A made-up build: half of the files (and bytes) in folders, half in ZIP archives; sounds that do not compress,
 * tables that do, binary data of both sorts. Written twice: as the build, and with the archives unpacked, for a
 * program that does not look into archives.
 */
export class BenchTree {
  private items: Item[];

  constructor({ files, bytes, filesPerArchive, looseShare = 0.5, extensions = readExtensions }: TreeSize) {
    const random = seeded(11);
    const mean = bytes / files;
    // Sizes spread over two orders of magnitude about the mean, as those of a game's files do.
    const paths = Array.from({ length: files }, (_, index) =>
      pathOf(index, files * looseShare, filesPerArchive, extensions[index % extensions.length] ?? 'bin'),
    );
    const weights = paths.map(() => 10 ** (random() * 2 - 1));
    const scale = (mean * files) / weights.reduce((sum, weight) => sum + weight, 0);
    this.items = weights.map((weight, index) => ({
      path: paths[index] ?? '',
      seed: String(index),
      size: Math.max(16, Math.round(weight * scale)),
    }));
  }

  get bytes(): number {
    return this.items.reduce((sum, { size }) => sum + size, 0);
  }

  get files(): number {
    return this.items.length;
  }

  /** The next build: 3% changed, 1% moved, 2% added, 1% removed. @returns what a diff must find */
  advance(): { changed: number; moved: number; added: number; removed: number } {
    const count = this.items.length;
    const parts = {
      changed: Math.round(count * 0.03),
      moved: Math.round(count * 0.01),
      added: Math.round(count * 0.02),
      removed: Math.round(count * 0.01),
    };
    const random = seeded(12);
    const order = this.items
      .map((item) => ({ item, key: random() }))
      .sort((a, b) => a.key - b.key)
      .map(({ item }) => item);
    for (const item of order.splice(0, parts.changed)) item.seed += '+';
    for (const item of order.splice(0, parts.moved)) item.path = item.path.replace(/([^/]+)$/, 'moved/$1');
    const gone = new Set(order.splice(0, parts.removed));
    this.items = this.items.filter((item) => !gone.has(item));
    for (let index = 0; index < parts.added; index++) {
      const like = order[index % order.length];
      if (like)
        this.items.push({
          path: like.path.replace(/([^/]+)$/, `new_${index}_$1`),
          seed: `new ${index}`,
          size: like.size,
        });
    }
    return parts;
  }

  /** What lies where, by the names of the contents. */
  state(): Map<string, string> {
    return new Map(this.items.map(({ path, seed }) => [path, seed]));
  }

  /**
   * Brings a folder with the build (folders and archives) to this state, as an update of an installed game does: what
   * stayed as it was is not touched, and an archive in which something changed is written anew.
   */
  writeBuild(folder: string, before: ReadonlyMap<string, string> = new Map()): void {
    const state = this.state();
    const isStale = (path: string): boolean => before.get(path) !== state.get(path);
    const staleArchives = new Set(
      [...before.keys(), ...state.keys()].filter(isStale).flatMap((path) => archiveOf(path) ?? []),
    );
    const archives = new Map<string, Zippable>();
    for (const path of before.keys())
      if (!state.has(path) && archiveOf(path) === null) rmSync(join(folder, path));
    for (const { path, seed, size } of this.items) {
      const archive = archiveOf(path);
      if (archive === null) {
        if (isStale(path)) writeInto(folder, path, contentOf(path, seed, size));
      } else if (staleArchives.has(archive)) {
        const entries = archives.get(archive) ?? {};
        entries[path.slice(archive.length + 1)] = [
          contentOf(path, seed, size),
          { level: path.endsWith('.wav') ? 0 : 3, mtime: '2026-01-01' },
        ];
        archives.set(archive, entries);
      }
    }
    for (const [path, entries] of archives) writeInto(folder, path, zipSync(entries));
  }

  /** The same for a copy with the archives unpacked. */
  writeUnpacked(folder: string, before: ReadonlyMap<string, string> = new Map()): void {
    const state = this.state();
    for (const path of before.keys()) if (!state.has(path)) rmSync(join(folder, path));
    for (const { path, seed, size } of this.items) {
      if (before.get(path) !== seed) writeInto(folder, path, contentOf(path, seed, size));
    }
  }
}

/** The archive that a path lies in; null where it lies in none. */
function archiveOf(path: string): string | null {
  const mark = path.indexOf('.zip/');
  return mark < 0 ? null : path.slice(0, mark + 4);
}

function pathOf(index: number, loose: number, filesPerArchive: number, extension: string): string {
  const folder = `group_${String(Math.floor(index / 250)).padStart(3, '0')}`;
  if (index < loose) return `loose/${folder}/thing_${index}.${extension}`;
  return `packed/set_${String(Math.floor(index / filesPerArchive)).padStart(3, '0')}.zip/${folder}/thing_${index}.${extension}`;
}

/** The bytes of a content; moved files keep theirs, since only the seed, the size and the extension count. */
function contentOf(path: string, seed: string, size: number): Uint8Array {
  const random = seeded(seedOf(seed));
  const bytes = Buffer.allocUnsafe(size);
  if (path.endsWith('.json') || path.endsWith('.csv') || path.endsWith('.dat')) {
    const isJson = path.endsWith('.json');
    let at = 0;
    const line = (): string =>
      isJson
        ? `{"id": ${Math.floor(random() * 1e6)}, "name": "thing_${Math.floor(random() * 1e4)}", "lit": ${random() < 0.5}},\n`
        : `${Math.floor(random() * 1e6)},thing,${Math.floor(random() * 100)}\n`;
    if (isJson) at += bytes.write('[\n', at);
    while (at < size - 90) at += bytes.write(line(), at);
    bytes.fill(0x20, at);
    if (isJson) bytes.write('{"id": 0}]\n', size - 12);
    return bytes;
  }
  const range = path.endsWith('.tex') ? 2 ** 12 : 2 ** 32;
  for (let at = 0; at < size - 3; at += 4) bytes.writeUInt32LE((random() * range) >>> 0, at);
  // The odd bytes at the end must not be what memory held before.
  bytes.fill(0, size - (size % 4));
  if (path.endsWith('.wav') && size > 60) wavHeader(bytes);
  return bytes;
}

function wavHeader(bytes: Buffer): void {
  bytes.write('RIFF', 0, 'latin1');
  bytes.writeUInt32LE(bytes.length - 8, 4);
  bytes.write('WAVEfmt ', 8, 'latin1');
  bytes.writeUInt32LE(16, 16);
  bytes.writeUInt16LE(1, 20);
  bytes.writeUInt16LE(1, 22);
  bytes.writeUInt32LE(22_050, 24);
  bytes.writeUInt32LE(44_100, 28);
  bytes.writeUInt16LE(2, 32);
  bytes.writeUInt16LE(16, 34);
  bytes.write('data', 36, 'latin1');
  bytes.writeUInt32LE((bytes.length - 44) & ~1, 40);
}

function writeInto(folder: string, path: string, bytes: Uint8Array): void {
  const file = join(folder, path);
  mkdirSync(dirname(file), { recursive: true });
  writeFileSync(file, bytes);
}
