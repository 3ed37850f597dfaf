import { randomUUID } from 'node:crypto';
import { closeSync, openSync, renameSync, writeSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { z } from 'zod';
import type { PathTables } from '../../core/search/path-index.ts';
import type { RangeField } from '../../core/search/query.ts';
import type { StateTables } from '../../core/search/search.ts';

/** All that a search of one channel looks at. */
export interface SearchTables {
  paths: PathTables;
  states: StateTables;
  /** 32 bytes to a span, zeros where nothing could be read. */
  hashes: Uint8Array;
  /** 1 where there is a preview. */
  previews: Uint8Array;
}

type Numbers = Uint8Array | Uint32Array | Float64Array;
const makers = { Uint8Array, Uint32Array, Float64Array };

const headSchema = z.object({
  key: z.string(),
  parts: z.array(
    z.object({ name: z.string(), sort: z.enum(['Uint8Array', 'Uint32Array', 'Float64Array']), at: z.number(), length: z.number() }),
  ),
}); // prettier-ignore

/** Writes tables beside their place, and moves them there when they are whole. @param key tells what they were made of */
export function writeTables(file: string, key: string, tables: SearchTables): void {
  const { figures, ...states } = tables.states;
  const arrays: [string, Numbers][] = [
    ...Object.entries(tables.paths).map(([name, array]): [string, Numbers] => [`paths.${name}`, array as Numbers]),
    ...Object.entries(states).map(([name, array]): [string, Numbers] => [`states.${name}`, array]),
    ...Object.entries(figures).map(([name, array]): [string, Numbers] => [`figures.${name}`, array]),
    ['hashes', tables.hashes],
    ['previews', tables.previews],
  ];
  let at = 0;
  const parts = arrays.map(([name, array]) => {
    const part = { name, sort: array.constructor.name, at, length: array.length };
    // Numbers of eight bytes begin at places that eight divides.
    at += Math.ceil(array.byteLength / 8) * 8;
    return part;
  });
  const head = Buffer.from(JSON.stringify({ key, parts }));
  const begin = Math.ceil((4 + head.length) / 8) * 8;
  const first = Buffer.alloc(begin);
  first.writeUInt32LE(head.length, 0);
  head.copy(first, 4);
  // A server and a command may make the same ones at once.
  const fresh = `${file}.${randomUUID()}.new`;
  const descriptor = openSync(fresh, 'w', 0o600);
  try {
    write(descriptor, first, 0);
    arrays.forEach(([, array], number) => write(descriptor, new Uint8Array(array.buffer, array.byteOffset, array.byteLength), begin + (parts[number]?.at ?? 0)));
  } finally {
    closeSync(descriptor);
  }
  renameSync(fresh, file);
} // prettier-ignore

function write(descriptor: number, bytes: Uint8Array, place: number): void {
  for (let at = 0; at < bytes.length;) at += writeSync(descriptor, bytes, at, bytes.length - at, place + at);
}

/** @returns null where there are none, or where they were made of something else */
export async function readTables(file: string, key: string): Promise<SearchTables | null> {
  let bytes: Buffer;
  try {
    bytes = await readFile(file);
  } catch {
    // They were not made yet.
    return null;
  }
  const headLength = bytes.length >= 4 ? bytes.readUInt32LE(0) : Infinity;
  if (headLength > bytes.length - 4) return null;
  const head = headSchema.safeParse(parsed(bytes.subarray(4, 4 + headLength).toString('utf8')));
  if (!head.success || head.data.key !== key) return null;
  const begin = Math.ceil((4 + headLength) / 8) * 8;
  const parts = new Map<string, Numbers>();
  for (const { name, sort, at, length } of head.data.parts) {
    const Maker = makers[sort];
    // Nothing is written of what is empty, and the file may end before its place.
    if (length === 0) {
      parts.set(name, new Maker(0));
      continue;
    }
    if (begin + at + length * Maker.BYTES_PER_ELEMENT > bytes.length) return null;
    parts.set(name, new Maker(bytes.buffer as ArrayBuffer, bytes.byteOffset + begin + at, length));
  }
  const part = (name: string): never => (parts.get(name) ?? new Uint8Array(0)) as never;
  const group = (prefix: string): Record<string, Numbers> =>
    Object.fromEntries([...parts].filter(([name]) => name.startsWith(prefix)).map(([name, array]) => [name.slice(prefix.length), array]));
  return {
    paths: group('paths.') as unknown as PathTables,
    states: { ...group('states.'), figures: group('figures.') as Partial<Record<RangeField, Float64Array>> } as unknown as StateTables,
    hashes: part('hashes'),
    previews: part('previews'),
  };
} // prettier-ignore

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // Damaged: it is made again.
    return null;
  }
}
