import sharp from 'sharp';
import { seedOf, seeded } from './seeded.ts';

type Files = [path: string, bytes: Uint8Array | string][];

const side = 16;
const kinds = 8;
const across = 40;
const down = 26;
const deep = 1;
const shallow = 2;
const reed = 3;
const mud = 4;
const grass = 5;
const plank = 6;
const path = 7;
const buoy = 8;

/** A map of tiles with what it names, and a table of buoys in centimetres, Z up, with angles in degrees. */
export async function harbour(newer: boolean): Promise<Files> {
  return [
    ['maps/harbour/harbour.tmx', tileMap(newer)],
    ['maps/harbour/harbour_tiles.tsx', tileSet()],
    ['maps/harbour/harbour_tiles.png', await tiles()],
    ['maps/harbour/buoys.csv', buoys(newer)],
    ...(await boards()),
  ];
}

function tileSet(): string {
  return `<?xml version="1.0" encoding="UTF-8"?>
<tileset version="1.10" name="harbour_tiles" tilewidth="${side}" tileheight="${side}" tilecount="${kinds}" columns="${kinds}">
 <image source="harbour_tiles.png" width="${side * kinds}" height="${side}"/>
</tileset>
`;
}

function tileMap(newer: boolean): string {
  const random = seeded(seedOf('harbour'));
  const phase = random() * 6;
  const shoreAt = (x: number): number => down * 0.55 + 3 * Math.sin(x * 0.28 + phase) + Math.sin(x * 0.9);
  // The newer build has a second pier.
  const isPier = (x: number, y: number): boolean =>
    (Math.abs(x - 12) < 1 || (newer && Math.abs(x - 29) < 1)) && y > 5 && y < shoreAt(x) + 2;
  const ground = (x: number, y: number): number => {
    const shore = shoreAt(x);
    if (y < shore - 4) return deep;
    if (y < shore - 1) return shallow;
    if (y < shore) return random() < 0.6 ? reed : mud;
    if (Math.abs(y - (shore + 4)) < 0.7) return path;
    return grass;
  };
  const layer = (id: number, name: string, tileAt: (x: number, y: number) => number, more = ''): string => {
    const rows = Array.from({ length: down }, (_, y) =>
      Array.from({ length: across }, (__, x) => tileAt(x, y)).join(','),
    );
    return ` <layer id="${id}" name="${name}" width="${across}" height="${down}"${more}>
  <data encoding="csv">
${rows.join(',\n')}
</data>
 </layer>`;
  };
  return `<?xml version="1.0" encoding="UTF-8"?>
<map version="1.10" orientation="orthogonal" renderorder="right-down" width="${across}" height="${down}" tilewidth="${side}" tileheight="${side}" infinite="0">
 <tileset firstgid="1" source="harbour_tiles.tsx"/>
${layer(1, 'ground', ground)}
${layer(3, 'piers', (x, y) => (isPier(x, y) ? plank : 0))}
${layer(4, 'fairway', (x, y) => (y === 3 && x % 5 === 2 ? buoy : 0), ' visible="0"')}
 <objectgroup id="2" name="people">
  <object id="1" name="ferryman" class="person" x="196" y="96"/>
  <object id="2" name="ticket booth" class="door" x="300" y="330" width="32" height="32"/>
  <object id="3" name="buoy" class="mark" gid="${buoy}" x="420" y="60" width="${side}" height="${side}" rotation="90"/>
 </objectgroup>
</map>
`;
}

async function tiles(): Promise<Uint8Array> {
  const random = seeded(seedOf('harbour_tiles'));
  const colours = [
    [34, 74, 92],
    [66, 118, 128],
    [96, 122, 62],
    [112, 96, 70],
    [102, 138, 74],
    [146, 110, 72],
    [186, 168, 124],
    [190, 74, 44],
  ];
  const pixels = Buffer.alloc(side * kinds * side * 4);
  for (let y = 0; y < side; y++)
    for (let x = 0; x < side * kinds; x++) {
      const kind = Math.floor(x / side);
      const grain = (kind === plank - 1 ? (x % 5 === 0 ? -30 : 0) : 0) + (random() - 0.5) * 22;
      const inBuoy = Math.hypot((x % side) - 7.5, y - 7.5) < 6;
      const alpha = kind === buoy - 1 && !inBuoy ? 0 : 255;
      const colour = colours[kind] ?? [0, 0, 0];
      pixels.set(
        [...colour.map((value) => Math.max(0, Math.min(255, value + grain))), alpha],
        (y * side * kinds + x) * 4,
      );
    }
  return sharp(pixels, { raw: { width: side * kinds, height: side, channels: 4 } })
    .png()
    .toBuffer();
}

function buoys(newer: boolean): string {
  const random = seeded(seedOf('buoys'));
  const lines = Array.from({ length: newer ? 34 : 30 }, (_, at) => {
    const angle = (at / 30) * Math.PI * 2;
    const reach = 1800 + random() * 900;
    const what = at % 5 === 0 ? 'lum_marsh' : at % 3 === 0 ? 'rd_2' : 'lum_bow';
    return [
      `buoy_${String(at).padStart(2, '0')}`,
      what,
      at % 3 === 0 && at % 5 !== 0 ? 'plant' : 'light',
      Math.round(reach * Math.cos(angle)),
      Math.round(reach * Math.sin(angle)),
      Math.round(random() * 40),
      Math.round(random() * 360),
      at % 5 === 0 ? 1.5 : 1,
    ].join(';');
  });
  return `name;what;class;east_cm;north_cm;height_cm;heading;size\n${lines.join('\n')}\n`;
}

/** The same board as TGA and as DDS, both uncompressed: other bytes, the same pixels. */
async function boards(): Promise<Files> {
  const size = 64;
  const random = seeded(seedOf('timetable'));
  const bgra = Buffer.alloc(size * size * 4);
  for (let y = 0; y < size; y++)
    for (let x = 0; x < size; x++) {
      const isLine = y % 9 === 4 && x > 6 && x < 56 - random() * 8;
      const shade = isLine ? 40 : 205 - ((x * 7 + y * 3) % 13);
      bgra.set([shade * 0.72, shade * 0.9, shade, 255], (y * size + x) * 4);
    }
  // Truevision TGA 2.0: true colour, 32 bits, rows from the top, eight bits of alpha.
  const tga = Buffer.alloc(18);
  tga[2] = 2;
  tga.writeUInt16LE(size, 12);
  tga.writeUInt16LE(size, 14);
  tga[16] = 32;
  tga[17] = 0x28;
  // DDS: a header of 124 bytes, a pixel format of 32, four masks.
  const dds = Buffer.alloc(128);
  dds.write('DDS ', 0, 'latin1');
  dds.writeUInt32LE(124, 4);
  dds.writeUInt32LE(0x100f, 8);
  dds.writeUInt32LE(size, 12);
  dds.writeUInt32LE(size, 16);
  dds.writeUInt32LE(size * 4, 20);
  dds.writeUInt32LE(32, 76);
  dds.writeUInt32LE(0x41, 80);
  dds.writeUInt32LE(32, 88);
  [0x00ff0000, 0x0000ff00, 0x000000ff, 0xff000000].forEach((mask, at) =>
    dds.writeUInt32LE(mask, 92 + at * 4),
  );
  dds.writeUInt32LE(0x1000, 108);
  return [
    ['interface/boards/timetable.tga', Buffer.concat([tga, bgra])],
    ['interface/boards/timetable.dds', Buffer.concat([dds, bgra])],
  ];
}
