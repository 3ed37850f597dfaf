import { randomBytes } from 'node:crypto';
import {
  closeSync,
  existsSync,
  ftruncateSync,
  mkdirSync,
  openSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';

import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import * as z from 'zod';
import { deviceSchema } from '../../../contract/ways-in.ts';
import { holeMarkPath } from './hole-mark.ts';
import { PlainError } from '../../platform/plain-error.ts';
import { addressBeside, request, requestJson, folderUrl, wholeOf } from './fetch-whole.ts';

export type Device = z.infer<typeof deviceSchema>;

const sectorBytes = 2048;
const chunkBytes = 256 * 1024;
/** Waits before a bad range is tried again; each time in smaller pieces. */
const waitsMs = [250, 500, 1000, 2000];
const piecesBytes = [64 * 1024, 16 * 1024, sectorBytes, sectorBytes];

/** What was copied of a device, and what it did not give: ranges of bytes. */
const copyStateSchema = z.object({
  size: z.number(),
  label: z.string(),
  /** Everything before it was asked for once. */
  asked: z.number(),
  bad: z.array(z.tuple([z.number(), z.number()])),
});
type CopyState = z.infer<typeof copyStateSchema>;
type Range = [start: number, end: number];

export async function lookAtDevice(url: string, signal: AbortSignal): Promise<Device> {
  return requestJson(new URL('device.json', folderUrl(url)).href, deviceSchema, signal);
}

export interface CopiedDevice {
  image: string;
  /** Ranges that stayed unreadable, in bytes; the end is not part of one. */
  bad: Range[];
}

/**
 * Copies a device's image in ranges. It goes on where it stopped; what cannot be read is tried again with growing waits and
 * in smaller pieces; what stays unreadable is filled with a mark, by which the files that it touches are told later.
 */
export async function copyDevice(
  place: string,
  url: string,
  device: Device,
  signal: AbortSignal,
  onProgress: (bytes: number, total: number) => void,
): Promise<CopiedDevice> {
  mkdirSync(place, { recursive: true });
  const image = join(place, 'device.img');
  const statePath = join(place, 'device.json');
  const { size } = device;
  const state = readState(statePath, device) ?? { size, label: device.label, asked: 0, bad: [] };
  if (state.asked === 0) for (const path of [image, holeMarkPath(image)]) rmSync(path, { force: true });
  const imageUrl = addressBeside(folderUrl(url), device.image);
  const file = openSync(image, existsSync(image) ? 'r+' : 'w+', 0o600);
  try {
    ftruncateSync(file, size);
    while (state.asked < size) {
      signal.throwIfAborted();
      const range: Range = [state.asked, Math.min(size, state.asked + chunkBytes)];
      if (!(await copyRange(file, imageUrl, range, signal))) state.bad.push(range);
      state.asked = range[1];
      saveState(statePath, state);
      onProgress(state.asked, size);
    }
    for (const [index, waitMs] of waitsMs.entries()) {
      if (state.bad.length === 0) break;
      await sleep(waitMs, undefined, { signal });
      const bad: Range[] = [];
      for (const range of split(state.bad, piecesBytes[index] ?? sectorBytes)) {
        signal.throwIfAborted();
        if (!(await copyRange(file, imageUrl, range, signal))) bad.push(range);
      }
      state.bad = joinNeighbours(bad);
      saveState(statePath, state);
    }
    if (state.bad.length > 0) fillHoles(file, image, state.bad);
  } finally {
    closeSync(file);
  }
  return { image, bad: state.bad };
}

/** @returns whether the device gave all of it */
async function copyRange(
  file: number,
  url: string,
  [start, end]: Range,
  signal: AbortSignal,
): Promise<boolean> {
  try {
    const answer = await request(url, signal, { Range: `bytes=${start}-${end - 1}` });
    if (answer.status !== 206) throw new PlainError(`${url} does not give ranges.`);
    const bytes = await wholeOf(answer, end - start);
    if (bytes.length !== end - start) return false;
    for (let at = 0; at < bytes.length;) at += writeSync(file, bytes, at, bytes.length - at, start + at);
    return true;
  } catch (error) {
    signal.throwIfAborted();
    if (error instanceof PlainError && error.message.endsWith('ranges.')) throw error;
    return false;
  }
}

function split(ranges: readonly Range[], pieceBytes: number): Range[] {
  return ranges.flatMap(([start, end]) => {
    const pieces: Range[] = [];
    for (let at = start; at < end; at += pieceBytes) pieces.push([at, Math.min(end, at + pieceBytes)]);
    return pieces;
  });
}

/** Neighbours become one. */
function joinNeighbours(ranges: readonly Range[]): Range[] {
  const joined: Range[] = [];
  for (const [start, end] of ranges) {
    const last = joined.at(-1);
    if (last?.[1] === start) last[1] = end;
    else joined.push([start, end]);
  }
  return joined;
}

/** Fills every unreadable sector with a mark that occurs nowhere else. */
function fillHoles(file: number, image: string, bad: readonly Range[]): void {
  const path = holeMarkPath(image);
  const mark = existsSync(path) ? Buffer.from(readFileSync(path, 'utf8').trim(), 'hex') : randomBytes(32);
  writeFileSync(path, `${mark.toString('hex')}\n`, { mode: 0o600 });
  for (const [start, end] of bad) {
    const filling = Buffer.alloc(end - start, mark);
    for (let at = 0; at < filling.length;)
      at += writeSync(file, filling, at, filling.length - at, start + at);
  }
}

function readState(path: string, { size, label }: Device): CopyState | null {
  if (!existsSync(path)) return null;
  const parsed = copyStateSchema.safeParse(JSON.parse(readFileSync(path, 'utf8')));
  return parsed.success && parsed.data.size === size && parsed.data.label === label ? parsed.data : null;
}

function saveState(path: string, state: CopyState): void {
  writeFileSync(`${path}.new`, JSON.stringify(state), { mode: 0o600 });
  renameSync(`${path}.new`, path);
}
