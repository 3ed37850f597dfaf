import { seeded } from '../../demo/seeded.ts';

/** A field of a header that was invented, as it is looked for. */
export interface InventedField {
  kind: 'constant' | 'size' | 'count' | 'offset';
  at: number;
  bytes: number;
  /** Of a count: bytes of each thing. */
  stride?: number;
}

export interface InventedFormat {
  files: Buffer[];
  isLittle: boolean;
  fields: InventedField[];
  /** Bytes of each thing of a list that no count tells; null where there is none. */
  stride: number | null;
}

/** Invents a format by a seed, as people do: a mark, a version, sizes, counts, offsets, one or two lists of things of one size. */
export function inventedFormat(seed: number): InventedFormat {
  const random = seeded(seed * 7919 + 1);
  const below = (most: number): number => Math.floor(random() * most);
  const chance = (share: number): boolean => random() < share;
  const isLittle = chance(0.6);
  const mark = Array.from({ length: 3 + below(3) }, () => String.fromCharCode(65 + below(26))).join('');
  const version = chance(0.7) ? 1 + below(9) : null;
  const hasSize = chance(0.5);
  const hasFlags = chance(0.4);
  const listCount = chance(0.4) ? 2 : 1;
  const byOffset = chance(0.4);
  const isCounted = listCount === 2 || byOffset || chance(0.8);
  const countBytes = chance(0.7) ? 4 : 2;
  const strides = Array.from({ length: listCount }, () => 4 * (2 + below(9)));
  // Things begin with a number that differs little from one to the next, as ids and heights do.
  const rowOf = (stride: number, row: number): Buffer => {
    const bytes = Buffer.alloc(stride);
    for (let at = 0; at + 4 <= stride; at += 4) {
      const float = Math.sin(row / 9 + at) * (5 + at);
      if (at % 12 === 8) bytes[isLittle ? 'writeUInt32LE' : 'writeUInt32BE'](row * 3 + at, at);
      else bytes[isLittle ? 'writeFloatLE' : 'writeFloatBE'](float, at);
    }
    return bytes;
  };
  const fields: InventedField[] = [];
  const files: Buffer[] = [];
  for (let file = 0; file < 8; file++) {
    const counts = strides.map(() => 12 + below(300));
    const parts: Buffer[] = [];
    const place = (): number => parts.reduce((sum, part) => sum + part.length, 0);
    const note = (field: InventedField): void => void (file === 0 && fields.push(field));
    const number = (bytes: number, value: number): Buffer => {
      const buffer = Buffer.alloc(bytes);
      if (bytes === 4) buffer[isLittle ? 'writeUInt32LE' : 'writeUInt32BE'](value);
      else buffer[isLittle ? 'writeUInt16LE' : 'writeUInt16BE'](value);
      return buffer;
    };
    note({ kind: 'constant', at: 0, bytes: mark.length });
    parts.push(Buffer.from(mark));
    if (version !== null) parts.push(number(2, version));
    while (place() % countBytes !== 0) parts.push(Buffer.alloc(1));
    const lists = strides.map((stride, list) => ({ stride, rows: counts[list] ?? 0 }));
    const bodies = lists.map(({ stride, rows }) =>
      Buffer.concat(Array.from({ length: rows }, (_, row) => rowOf(stride, row))),
    );
    const header =
      place() +
      (hasSize ? 4 : 0) +
      (hasFlags ? 4 : 0) +
      (isCounted ? lists.length * countBytes : 0) +
      (byOffset ? lists.length * 4 : 0);
    const size = header + bodies.reduce((sum, body) => sum + body.length, 0);
    if (hasSize) {
      note({ kind: 'size', at: place(), bytes: 4 });
      parts.push(number(4, size));
    }
    if (hasFlags) parts.push(number(4, below(2 ** 31)));
    let begin = header;
    lists.forEach(({ stride, rows }, list) => {
      if (isCounted) {
        note({ kind: 'count', at: place(), bytes: countBytes, stride });
        parts.push(number(countBytes, rows));
      }
      if (byOffset) {
        note({ kind: 'offset', at: place(), bytes: 4 });
        parts.push(number(4, begin));
      }
      begin += bodies[list]?.length ?? 0;
    });
    files.push(Buffer.concat([...parts, ...bodies]));
  }
  return { files, isLittle, fields, stride: isCounted ? null : (strides[0] ?? null) };
}
