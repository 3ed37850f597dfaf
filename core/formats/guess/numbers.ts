import type { Proposal, Sample } from './proposal.ts';

const lookedRows = 2000;
const fewestRows = 8;

/** A list of things of one size, with where it begins in the first file. */
export interface GuessedList {
  at: number;
  count: number;
  stride: number;
  isLittle: boolean;
}

/** What the numbers of a list may be: positions, unit normals, quaternions, UVs; or indices into another list. */
export function numbersOf({ bytes }: Sample, list: GuessedList, counts: readonly number[]): Proposal[] {
  const { at, count, stride, isLittle } = list;
  const rows = Math.min(count, lookedRows, Math.floor((bytes.length - at) / stride));
  if (rows < fewestRows) return [];
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const float = (row: number, offset: number): number =>
    view.getFloat32(at + row * stride + offset, isLittle);
  const found: Proposal[] = [];
  const columns: ReturnType<typeof floatColumn>[] = [];
  for (let offset = 0; offset + 4 <= stride; offset += 4)
    columns.push(floatColumn(rows, (row) => float(row, offset)));
  const share = (width: number, offset: number, test: (values: number[]) => boolean): number => {
    let fitting = 0;
    for (let row = 0; row < rows; row++)
      if (test(Array.from({ length: width }, (_, part) => float(row, offset + part * 4)))) fitting++;
    return fitting / rows;
  };
  const add = (column: number, width: number, what: string, name: string, score: number): number => {
    found.push({
      ...{ kind: 'floats', at: at + column * 4, bytes: width * 4, stride, isLittle, score },
      says: `${width} floats of ${stride} bytes each row look like ${what}, in ${rows} rows`,
      field: { name, type: `f32[${width}]` },
    });
    return column + width;
  };
  for (let column = 0; column < columns.length;) {
    const part = columns.slice(column, column + 4);
    const has = (width: number): boolean =>
      part.length >= width && part.slice(0, width).every(({ isPossible }) => isPossible);
    const varied = (width: number): number =>
      has(width) ? part.slice(0, width).filter(({ isVaried }) => isVaried).length : 0;
    const at4 = column * 4;
    if (varied(4) > 1 && share(4, at4, isUnit) > 0.98)
      column = add(column, 4, 'quaternions', 'rotation', 0.93);
    else if (varied(3) > 1 && share(3, at4, isUnit) > 0.98)
      column = add(column, 3, 'unit normals', 'normal', 0.93);
    else if (varied(3) > 1 && !isRatio(rows, float, at4))
      column = add(column, 3, 'positions', 'position', 0.85);
    else if (varied(2) > 0 && share(2, at4, isInUnit) > 0.98) column = add(column, 2, 'UVs', 'uv', 0.8);
    else if (varied(3) > 1) column = add(column, 3, 'positions', 'position', 0.7);
    else column++;
  }
  if (found.length === 0) found.push(...indicesOf(view, list, rows, counts));
  return found;
}

/** Whether numbers are of a size that people measure in, and whether they are not all 0. */
function floatColumn(
  rows: number,
  read: (row: number) => number,
): { isPossible: boolean; isVaried: boolean } {
  let fitting = 0;
  let zeros = 0;
  for (let row = 0; row < rows; row++) {
    const value = read(row);
    const size = Math.abs(value);
    if (value === 0 || (size > 1e-6 && size < 1e7)) fitting++;
    if (value === 0) zeros++;
  }
  return { isPossible: fitting / rows > 0.99, isVaried: zeros / rows < 0.95 };
}

function isUnit(values: number[]): boolean {
  return Math.abs(Math.hypot(...values) - 1) < 0.01;
}

function isInUnit(values: number[]): boolean {
  return values.every((value) => value >= -0.01 && value <= 1.01);
}

/** Whether two columns lie between 0 and 1, and the third does not. */
function isRatio(rows: number, float: (row: number, offset: number) => number, offset: number): boolean {
  let two = 0;
  for (let row = 0; row < rows; row++)
    if (isInUnit([float(row, offset), float(row, offset + 4)]) && !isInUnit([float(row, offset + 8)])) two++;
  return two / rows > 0.5;
}

/** Whole numbers whose largest is just below how many there are of something. */
function indicesOf(
  view: DataView,
  { at, stride, isLittle }: GuessedList,
  rows: number,
  counts: readonly number[],
): Proposal[] {
  for (const bytes of [2, 4] as const) {
    if (stride % bytes !== 0 || stride > bytes * 4) continue;
    let largest = 0;
    for (let number = 0; number < (rows * stride) / bytes; number++) {
      const place = at + number * bytes;
      largest = Math.max(
        largest,
        bytes === 2 ? view.getUint16(place, isLittle) : view.getUint32(place, isLittle),
      );
    }
    const of = counts.find((count) => count > 8 && largest < count && largest >= count * 0.75);
    if (of === undefined) continue;
    const width = stride / bytes;
    return [
      {
        ...{ kind: 'indices', at, bytes: stride, stride, isLittle, score: largest === of - 1 ? 0.95 : 0.8 },
        says: `numbers of ${bytes} bytes, the largest of which is ${largest}: indices of ${of} things`,
        field: { name: 'indices', type: width === 1 ? `u${bytes * 8}` : `u${bytes * 8}[${width}]` },
      },
    ];
  }
  return [];
}
