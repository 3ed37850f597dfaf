import { randomUUID } from 'node:crypto';
import { closeSync, openSync, renameSync, writeSync } from 'node:fs';
import { open, type FileHandle } from 'node:fs/promises';
import * as z from 'zod';

export type Numbers = Uint8Array | Uint16Array | Uint32Array | Float64Array;
const makers = { Uint8Array, Uint16Array, Uint32Array, Float64Array };

const headSchema = z.object({
  key: z.string(),
  parts: z.array(
    z.object({
      name: z.string(),
      sort: z.enum(['Uint8Array', 'Uint16Array', 'Uint32Array', 'Float64Array']),
      at: z.number(),
      length: z.number(),
    }),
  ),
});

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
 * @param key null where it does not matter what they were made of
 * @param isWanted which of them; all where nothing is said
 * @returns null where there are none, or where they were made of something else
 */
export async function readArrays(
  file: string,
  key: string | null,
  isWanted: (name: string) => boolean = () => true,
): Promise<Map<string, Numbers> | null> {
  let handle;
  try {
    handle = await open(file);
  } catch {
    // They were not made yet.
    return null;
  }
  try {
    const { size } = await handle.stat();
    const lengthBytes = await readShared(handle, 0, Math.min(4, size));
    const headLength =
      lengthBytes?.length === 4 ? new DataView(lengthBytes.buffer).getUint32(0, true) : Infinity;
    if (headLength > size - 4) return null;
    const headBytes = await readShared(handle, 4, headLength);
    const head = headSchema.safeParse(parsed(Buffer.from(headBytes?.slice() ?? []).toString('utf8')));
    if (!head.success || (key !== null && head.data.key !== key)) return null;
    const begin = Math.ceil((4 + headLength) / 8) * 8;
    const parts = new Map<string, Numbers>();
    for (const { name, sort, at, length } of head.data.parts) {
      if (!isWanted(name)) continue;
      const Maker = makers[sort];
      // Nothing is written of what is empty, and the file may end before its place.
      const bytes =
        length === 0 ? null : await readShared(handle, begin + at, length * Maker.BYTES_PER_ELEMENT);
      if (length > 0 && !bytes) return null;
      // The types of arrays know shared memory only where they are told of it one by one.
      parts.set(name, bytes ? new Maker(bytes.buffer as unknown as ArrayBuffer, 0, length) : new Maker(0));
    }
    return parts;
  } finally {
    await handle.close();
  }
}

/** @returns null where the file ends before */
async function readShared(
  handle: FileHandle,
  begin: number,
  length: number,
): Promise<Uint8Array<SharedArrayBuffer> | null> {
  const bytes = new Uint8Array(new SharedArrayBuffer(length));
  for (let at = 0; at < length;) {
    const { bytesRead } = await handle.read(bytes, at, Math.min(length - at, 1 << 28), begin + at);
    if (bytesRead === 0) return null;
    at += bytesRead;
  }
  return bytes;
}

function parsed(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    // Damaged: it is made again.
    return null;
  }
}
