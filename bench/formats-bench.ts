import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { bySheet } from '../core/formats/by-sheet.ts';
import { openSheet, type OpenSheet } from '../core/formats/open-sheet.ts';
import { readFields } from '../core/formats/read-by-sheet.ts';
import { trySheet } from '../core/formats/try-sheet.ts';
import { readContent } from '../core/kinds/read.ts';
import { seeded } from '../demo/seeded.ts';
import { nodePlatform } from '../server/decode/platform.ts';
import { applicationRoot } from '../server/platform/application-root.ts';
import { PlainError } from '../server/platform/plain-error.ts';
import { resultOf, type BenchResult } from './result.ts';
import { median } from './running.ts';

const rounds = 3;
const resolve = (): Promise<null> => Promise.resolve(null);

/** Sheets of open formats beside the product’s own readers, in turn; then what a sheet costs by itself. */
export async function benchFormats(say: (line: string) => void, share = 1): Promise<BenchResult> {
  const bytes = Math.round(20_000_000 * share);
  const bmp = await toOwn('bmp', 'bmp', madeBmp(bytes), say);
  const wav = await toOwn('wav', 'wav', madeWav(bytes), say);
  const stl = await toOwn('stl', 'stl', madeStl(bytes), say);
  const millionFieldsPerSecond = await timeFields(Math.round(400_000 * share));
  say(`${millionFieldsPerSecond.toFixed(2)} million fields a second`);
  const containerSeconds = await timeContainer(Math.round(100_000 * share));
  say(`A container of ${Math.round(100_000 * share)} entries: ${containerSeconds.toFixed(2)} s`);
  const files = Math.round(10_000 * share);
  const fitSeconds = await timeFit(files);
  say(`${files} files of 20 kB tried: ${fitSeconds.toFixed(1)} s`);
  return resultOf(
    'formats',
    { bytes, millionFieldsPerSecond, containerSeconds, files, fitSeconds },
    { bmpToOwn: bmp, wavToOwn: wav, stlToOwn: stl },
    {
      bmpToOwn: { what: 'BMP of 20 MB by a sheet / by the own reader', most: 2 },
      wavToOwn: { what: 'WAV of 20 MB by a sheet / by the own reader', most: 2 },
      stlToOwn: { what: 'STL of 20 MB by a sheet / by the own reader', most: 2 },
      millionFieldsPerSecond: { what: 'fields of structures, million a second', least: 2 },
      containerSeconds: { what: 'a container of 100,000 entries is listed, s', most: 2 },
      fitSeconds: { what: '10,000 files of 20 kB are tried, s', most: 20 },
    },
  );
}

function sheetOf(text: string): OpenSheet {
  const opened = openSheet(text);
  if ('sheet' in opened) return opened.sheet;
  throw new PlainError(opened.problems.map(({ line, message }) => `line ${line}: ${message}`).join('; '));
}

/** All that reading gives: facts, preview, fingerprint, signature. @returns the sheet’s time by the own reader’s */
async function toOwn(
  name: string,
  format: string,
  bytes: Uint8Array,
  say: (line: string) => void,
): Promise<number> {
  const sheet = sheetOf(readFileSync(join(applicationRoot, 'docs', 'format-sheets', `${name}.yaml`), 'utf8'));
  const path = `file.${name}`;
  const read = async (isBySheet: boolean): Promise<number> => {
    const begin = performance.now();
    await readContent(format, {
      ...{ bytes, size: bytes.length, path, platform: nodePlatform, resolve },
      part: (from, to) => bytes.subarray(from, to),
      bySheet: isBySheet ? bySheet(sheet, null, { bytes, path, resolve }) : undefined,
    });
    return (performance.now() - begin) / 1000;
  };
  const [own, sheets]: [number[], number[]] = [[], []];
  await read(false);
  await read(true);
  for (let round = 0; round < rounds; round++) {
    own.push(await read(false));
    sheets.push(await read(true));
  }
  say(`${name}: ${median(sheets).toFixed(2)} s by its sheet, ${median(own).toFixed(2)} s by the own reader`);
  return median(sheets) / median(own);
}

function madeBmp(bytes: number): Uint8Array {
  const width = 2048;
  const height = Math.max(1, Math.floor(bytes / width / 3));
  const bmp = Buffer.alloc(54 + width * height * 3);
  bmp.write('BM');
  bmp.writeUInt32LE(54, 10);
  bmp.writeUInt32LE(40, 14);
  bmp.writeInt32LE(width, 18);
  bmp.writeInt32LE(height, 22);
  bmp.writeUInt16LE(1, 26);
  bmp.writeUInt16LE(24, 28);
  for (let at = 54; at < bmp.length; at++) bmp[at] = (at * 7 + (at >> 11)) & 255;
  return bmp;
}

function madeWav(bytes: number): Uint8Array {
  const wav = Buffer.alloc(44 + (bytes & ~3));
  wav.write('RIFF');
  wav.writeUInt32LE(wav.length - 8, 4);
  wav.write('WAVEfmt ', 8);
  wav.writeUInt32LE(16, 16);
  wav.writeUInt16LE(1, 20);
  wav.writeUInt16LE(2, 22);
  wav.writeUInt32LE(44_100, 24);
  wav.writeUInt32LE(176_400, 28);
  wav.writeUInt16LE(4, 32);
  wav.writeUInt16LE(16, 34);
  wav.write('data', 36);
  wav.writeUInt32LE(wav.length - 44, 40);
  for (let at = 44; at < wav.length; at += 2) wav.writeInt16LE(Math.round(9000 * Math.sin(at / 37)), at);
  return wav;
}

/** A wavy sheet of triangles. */
function madeStl(bytes: number): Uint8Array {
  const count = Math.floor((bytes - 84) / 50);
  const stl = Buffer.alloc(84 + count * 50);
  stl.writeUInt32LE(count, 80);
  const side = Math.ceil(Math.sqrt(count / 2));
  for (let triangle = 0; triangle < count; triangle++) {
    const cell = triangle >> 1;
    const [x, y] = [cell % side, Math.floor(cell / side)];
    const corners = triangle % 2 === 0 ? [0, 0, 1, 0, 0, 1] : [1, 0, 1, 1, 0, 1];
    const at = 84 + triangle * 50;
    stl.writeFloatLE(1, at + 8);
    for (let corner = 0; corner < 3; corner++) {
      const [cx, cy] = [x + (corners[corner * 2] ?? 0), y + (corners[corner * 2 + 1] ?? 0)];
      stl.writeFloatLE(cx, at + 12 + corner * 12);
      stl.writeFloatLE(cy, at + 16 + corner * 12);
      stl.writeFloatLE(Math.sin(cx / 9) + Math.cos(cy / 7), at + 20 + corner * 12);
    }
  }
  return stl;
}

/** Structures that have no fixed size, so that each field is read by itself: five fields to each. */
async function timeFields(count: number): Promise<number> {
  const sheet = sheetOf(`sheet: Fields
language: 1
files: '*'
types:
  row: { kind: u8, more: { type: u8, if: kind > 0 }, at: u16, value: f32, name: 'string(u8)' }
root:
  count: u32
  rows: row[count]
`);
  const one = Buffer.from([1, 7, 2, 0, 0, 0, 128, 63, 3, 97, 98, 99]);
  const bytes = Buffer.concat([Buffer.alloc(4), ...Array.from({ length: count }, () => one)]);
  bytes.writeUInt32LE(count);
  const limits = { steps: 1e9, bytes: 4e9, depth: 16, milliseconds: 120_000 };
  const times: number[] = [];
  for (let round = 0; round < rounds; round++) {
    const begin = performance.now();
    await readFields(sheet, '', { bytes, path: 'x', resolve }, () => null, limits);
    times.push((performance.now() - begin) / 1000);
  }
  return (count * 5) / median(times) / 1e6;
}

async function timeContainer(count: number): Promise<number> {
  const sheet = sheetOf(`sheet: Container
language: 1
files: '*'
types:
  entry: { name: string, offset: u32, size: u32 }
root:
  count: u32
  entries: entry[count]
result:
  entries: { each: entries, name: name, offset: offset, size: size }
`);
  const parts: Buffer[] = [Buffer.alloc(4)];
  parts[0]?.writeUInt32LE(count);
  for (let entry = 0; entry < count; entry++) {
    const place = Buffer.alloc(8);
    place.writeUInt32LE(entry % 4);
    place.writeUInt32LE(4, 4);
    parts.push(Buffer.from(`folder_${entry % 97}/part_${entry}.bin\0`), place);
  }
  const bytes = Buffer.concat(parts);
  const make = sheet.result.entries;
  if (!make) throw new PlainError('the sheet makes no entries');
  const times: number[] = [];
  for (let round = 0; round < rounds; round++) {
    const begin = performance.now();
    const entries = await readFields(sheet, '', { bytes, path: 'x', resolve }, make);
    if (entries.length !== count) throw new PlainError(`${entries.length} entries of ${count}`);
    times.push((performance.now() - begin) / 1000);
  }
  return median(times);
}

/** Models of 20 kB in two versions of a format, of which the older one is tried second. */
async function timeFit(count: number): Promise<number> {
  const sheet = sheetOf(`sheet: Fit
language: 1
files: '*'
versions: ['1', '2']
types:
  vertex: { position: 'f32[3]', normal: 'i8[4]', uv: 'u16[2]' }
root:
  mark: { is: LM }
  form: { type: u16, is: 1, before: '2' }
  newer: { type: u16, is: 2, since: '2' }
  vertexCount: u32
  indexCount: u32
  vertices: vertex[vertexCount]
  indices: u16[indexCount]
result:
  model:
    parts:
      - positions: vertices.position
        normals: every(vertices.normal, 4, 0, 3) / 127
        uvs: [vertices.uv / 65535]
        indices: indices
`);
  const random = seeded(8);
  const vertices = 700;
  const indices = 2700;
  const made = Array.from({ length: 16 }, (_, number) => {
    const bytes = Buffer.alloc(12 + vertices * 20 + indices * 2);
    bytes.write('LM');
    bytes.writeUInt16LE(1 + (number % 2), 2);
    bytes.writeUInt32LE(vertices, 4);
    bytes.writeUInt32LE(indices, 8);
    for (let vertex = 0; vertex < vertices; vertex++)
      for (let part = 0; part < 3; part++) bytes.writeFloatLE(random(), 12 + vertex * 20 + part * 4);
    for (let index = 0; index < indices; index++)
      bytes.writeUInt16LE(Math.floor(random() * vertices), 12 + vertices * 20 + index * 2);
    return bytes;
  });
  const begin = performance.now();
  for (let file = 0; file < count; file++) {
    const bytes = made[file % made.length] ?? Buffer.alloc(0);
    const { version } = await trySheet(sheet, { bytes, path: 'x', resolve });
    if (version !== String(1 + (file % 2))) throw new PlainError(`version ${version} fits file ${file}`);
  }
  return (performance.now() - begin) / 1000;
}
