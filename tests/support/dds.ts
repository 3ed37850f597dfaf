/** DXGI numbers of what the tests write. */
export const dxgiNumbers = {
  bc1: 71,
  bc2: 74,
  bc3: 77,
  bc4: 80,
  bc4s: 81,
  bc5: 83,
  bc5s: 84,
  bc6h: 95,
  bc6hs: 96,
  bc7: 98,
  rgba8: 28,
} as const;

export interface DdsSaid {
  width: number;
  height: number;
  format: keyof typeof dxgiNumbers;
  data: Uint8Array;
  levels?: number;
  layers?: number;
  isCube?: boolean;
}

/** A DDS file with the DX10 header (Microsoft, Programming Guide for DDS), or with a code of four letters. */
export function ddsFile(
  { width, height, format, data, levels = 1, layers = 1, isCube = false }: DdsSaid,
  code = 'DX10',
): Buffer {
  const head = Buffer.alloc(code === 'DX10' ? 148 : 128);
  head.write('DDS ', 0, 'latin1');
  head.writeUInt32LE(124, 4);
  head.writeUInt32LE(0x1007 | 0x20000 | 0x80000, 8);
  head.writeUInt32LE(height, 12);
  head.writeUInt32LE(width, 16);
  head.writeUInt32LE(data.length, 20);
  head.writeUInt32LE(levels, 28);
  head.writeUInt32LE(32, 76);
  head.writeUInt32LE(4, 80);
  head.write(code, 84, 'latin1');
  head.writeUInt32LE(0x1000 | (isCube ? 0x8 : 0), 108);
  head.writeUInt32LE(isCube ? 0xfe00 : 0, 112);
  if (code === 'DX10') {
    head.writeUInt32LE(dxgiNumbers[format], 128);
    head.writeUInt32LE(3, 132);
    head.writeUInt32LE(isCube ? 4 : 0, 136);
    head.writeUInt32LE(layers, 140);
  }
  return Buffer.concat([head, data]);
}
