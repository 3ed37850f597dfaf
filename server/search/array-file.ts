import { randomUUID } from 'node:crypto';
import { closeSync, openSync, renameSync, writeSync } from 'node:fs';
import { open } from 'node:fs/promises';
import { z } from 'zod';

export type Numbers = Uint8Array | Uint32Array | Float64Array;
const makers = { Uint8Array, Uint32Array, Float64Array };

const headSchema = z.object({
  key: z.string(),
  parts: z.array(
    z.object({ name: z.string(), sort: z.enum(['Uint8Array', 'Uint32Array', 'Float64Array']), at: z.number(), length: z.number() }),
  ),
}); // prettier-ignore

/**
 * Writes arrays of numbers beside their place, and moves them there when they are whole.
 * @param key tells what they were made of
 */
export function writeArrays(file: string, key: string, arrays: ReadonlyMap<string, Numbers>): void {
  let at = 0;
  const parts = [...arrays].map(([name, array]) => {
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
    [...arrays.values()].forEach((array, number) =>
      write(
        descriptor,
        new Uint8Array(array.buffer, array.byteOffset, array.byteLength),
        begin + (parts[number]?.at ?? 0),
      ),
    );
  } finally {
    closeSync(descriptor);
  }
  renameSync(fresh, file);
}

function write(descriptor: number, bytes: Uint8Array, place: number): void {
  for (let at = 0; at < bytes.length;) at += writeSync(descriptor, bytes, at, bytes.length - at, place + at);
}

/**
 * Reads arrays into memory that threads can share.
 * @returns null where there are none, or where they were made of something else
 */
export async function readArrays(file: string, key: string): Promise<Map<string, Numbers> | null> {
  const bytes = await readShared(file);
  if (!bytes) return null;
  const view = new DataView(bytes.buffer);
  const headLength = bytes.length >= 4 ? view.getUint32(0, true) : Infinity;
  if (headLength > bytes.length - 4) return null;
  const head = headSchema.safeParse(parsed(Buffer.from(bytes.slice(4, 4 + headLength)).toString('utf8')));
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
    // The types of arrays know shared memory only where they are told of it one by one.
    parts.set(name, new Maker(bytes.buffer as unknown as ArrayBuffer, begin + at, length));
  }
  return parts;
}

async function readShared(file: string): Promise<Uint8Array<SharedArrayBuffer> | null> {
  let handle;
  try {
    handle = await open(file);
  } catch {
    // They were not made yet.
    return null;
  }
  try {
    const { size } = await handle.stat();
    const bytes = new Uint8Array(new SharedArrayBuffer(size));
    for (let at = 0; at < size;) {
      const { bytesRead } = await handle.read(bytes, at, Math.min(size - at, 1 << 28), at);
      if (bytesRead === 0) return null;
      at += bytesRead;
    }
    return bytes;
  } finally {
    await handle.close();
  }
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // Damaged: it is made again.
    return null;
  }
}
