import { spawn } from 'node:child_process';
import { mkdirSync, readFileSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import { dirname, extname, join, relative } from 'node:path';
import { createInterface } from 'node:readline';
import { seeded } from '../../demo/seeded.ts';
import type { Kind } from '../../contract/kinds.ts';
import { formatByExtension, formatOf } from '../../core/kinds/formats.ts';
import { identify } from '../../core/kinds/identify.ts';
import { namesOf, openModel } from '../../core/kinds/model/read.ts';
import { modelSignature } from '../../core/kinds/model/signature.ts';
import { trianglesOf } from '../../core/kinds/model/triangles.ts';
import { withRaster } from '../../core/kinds/read.ts';
import { requestOf } from '../../tests/support/compare.ts';
import { applicationRoot } from '../../server/platform/application-root.ts';
import { readBytes } from '../../tests/support/read.ts';
import { packedFiles } from '../open-pictures.ts';
import { editShape } from './shapes.ts';

/** A file of a collection, with what an update might have made of it. */
export interface Sample {
  collection: string;
  path: string;
  kind: Kind;
  size: number;
  signature: Uint8Array;
  edited: { edit: string; size: number; signature: Uint8Array } | null;
}

/** Files of one maker, as a tree. */
export interface Collection {
  name: string;
  folder: string;
  /** Paths within the folder. */
  paths: string[];
}

/** Larger files are left out: they take long, and say no more. */
const mostBytes = 8_000_000;
/** So many neighbours stand together. */
const run = 50;
const compared: ReadonlySet<Kind> = new Set(['picture', 'model', 'sound', 'text']);

/**
 * Open material that the machine has: models, pictures and sounds of Debian's and npm's packages, and trees that the
 * environment names (`WORVEL_LIKENESS_TREES`, parted by colons).
 * @param work where what lies packed in packages is put
 * @param mostOfKind of each collection and kind
 */
export function openCollections(work: string, mostOfKind: number): Collection[] {
  const require = createRequire(import.meta.url);
  const trees: [string, string][] = [
    ['pmndrs-assets', unpackedData(work)],
    ['assimp-testmodels', '/usr/share/assimp/models'],
    ['sonic-pi-samples', '/usr/share/sonic-pi/samples'],
    ['mui-material', dirname(require.resolve('@mui/material/package.json'))],
    ...(process.env.WORVEL_LIKENESS_TREES?.split(':').map((folder): [string, string] => [folder, folder]) ??
      []),
  ];
  return trees.map(([name, folder]) => ({ name, folder, paths: someOfEachKind(folder, mostOfKind) }));
}

/** Files that a package of scripts holds as data addresses, as files. */
function unpackedData(work: string): string {
  const root = join(work, 'unpacked');
  for (const { folder, name, bytes } of packedFiles(['matcaps', 'normals', 'textures', 'models', 'hdri'])) {
    mkdirSync(join(root, folder), { recursive: true });
    writeFileSync(join(root, folder, name), bytes);
  }
  return root;
}

function someOfEachKind(folder: string, most: number): string[] {
  const byKind = new Map<Kind, string[]>();
  for (const entry of readdirSync(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const path = join(entry.parentPath, entry.name);
    const format = formatByExtension(path);
    const kind = format && formatOf(format).kind;
    if (!kind || !compared.has(kind) || statSync(path).size > mostBytes) continue;
    const list = byKind.get(kind);
    if (list) list.push(path);
    else byKind.set(kind, [path]);
  }
  // Whole runs of neighbours, which are the hardest to tell apart, from several places.
  return [...byKind.values()]
    .flatMap((paths) => {
      paths.sort();
      if (paths.length <= most) return paths;
      const runs = Math.max(1, Math.ceil(most / run));
      const begins = Array.from({ length: runs }, (_, at) =>
        Math.max(0, Math.floor((at * (paths.length - run)) / Math.max(1, runs - 1))),
      );
      return [...new Set(begins.flatMap((begin) => paths.slice(begin, begin + run)))];
    })
    .map((path) => relative(folder, path));
}

/** Reads a collection, and makes of each file what an update might. What cannot be read is left out. */
export async function* samplesOf({ name, folder, paths }: Collection, work: string): AsyncGenerator<Sample> {
  const editor = new Editor();
  const random = seeded(name.length + 77);
  try {
    for (const [at, path] of paths.entries()) {
      const file = join(folder, path);
      const bytes = new Uint8Array(readFileSync(file));
      const { format } = identify(bytes.subarray(0, 1024), path);
      const { kind } = formatOf(format);
      if (!compared.has(kind)) continue;
      const sample = { collection: name, path, kind, size: bytes.length };
      try {
        if (kind === 'model') {
          const { request } = requestOf({ bytes, path: file, resolve: besideFile(file) });
          const { document } = await openModel(withRaster(request));
          const batches = trianglesOf(document);
          const names = namesOf(document);
          const signature = modelSignature(batches, names);
          const { edit, batches: after } = editShape(batches, random);
          const kept = names.filter(() => random() < 0.9);
          const now = modelSignature(after, kept);
          const size = Math.round(bytes.length * (0.85 + random() * 0.3));
          if (signature) yield { ...sample, signature, edited: now && { edit, size, signature: now } };
          continue;
        }
        const { signature } = await readBytes(bytes, file);
        if (!signature) continue;
        const to = join(
          work,
          `edited${kind === 'picture' ? '.png' : kind === 'sound' ? '.wav' : extname(path)}`,
        );
        const edit = await editor.edit(kind, file, to, at);
        const now = edit === null ? null : new Uint8Array(readFileSync(to));
        const after = now && (await readBytes(now, to)).signature;
        yield {
          ...sample,
          signature,
          edited: after && now && edit !== null ? { edit, size: now.length, signature: after } : null,
        };
      } catch {
        // Damaged on purpose, some of them.
      }
    }
  } finally {
    editor.close();
  }
}

const besideFile = (file: string) => (reference: string) =>
  Promise.resolve()
    .then(() => new Uint8Array(readFileSync(join(dirname(file), reference))))
    .catch(() => null);

/** The script that edits files, kept running. */
export class Editor {
  private readonly child = spawn(
    '/usr/bin/python3',
    [join(applicationRoot, 'bench', 'likeness', 'edit.py')],
    {
      stdio: ['pipe', 'pipe', 'inherit'],
    },
  );
  private readonly lines = createInterface({ input: this.child.stdout })[Symbol.asyncIterator]();

  /** @returns what was done; null where nothing could be */
  async edit(kind: Kind, from: string, to: string, seed: number, edit?: string): Promise<string | null> {
    this.child.stdin.write(`${JSON.stringify({ kind, in: from, out: to, seed, edit })}\n`);
    const { value } = (await this.lines.next()) as { value?: string };
    return JSON.parse(value ?? 'null') as string | null;
  }

  close(): void {
    this.child.stdin.end();
  }
}
