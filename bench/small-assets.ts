import { crc32 } from 'node:zlib';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** What changes from one build to the next, as shares of the assets. */
const changedShare = 0.03;
const movedShare = 0.01;
const removedShare = 0.01;
const addedShare = 0.01;

export interface ExpectedDifferences {
  changed: number;
  moved: number;
  removed: number;
  added: number;
}

/**
 * Builds of very many small assets, in archives of 25,000, so that they can be written quickly: entries that are not
 * compressed, of some 60 bytes each.
 */
export class SmallAssets {
  private readonly count: number;
  private readonly perArchive = 25_000;

  constructor(count: number) {
    this.count = count;
  }

  /** @param isSecond writes the next build, with 6% of differences */
  write(folder: string, isSecond: boolean): ExpectedDifferences {
    const expected = { changed: 0, moved: 0, removed: 0, added: 0 };
    mkdirSync(folder, { recursive: true });
    for (let first = 0; first < this.count; first += this.perArchive) {
      const entries: [string, string][] = [];
      for (let index = first; index < Math.min(this.count, first + this.perArchive); index++) {
        const path = `group_${Math.floor(index / 500)}/thing_${index}.dat`;
        const content = `the content of thing ${index}, which is here for the first time`;
        const turn = isSecond ? (index % 1000) / 1000 : 1;
        if (turn < changedShare) {
          entries.push([path, `${content}, and changed`]);
          expected.changed++;
        } else if (turn < changedShare + movedShare) {
          entries.push([path.replace('group', 'moved'), content]);
          expected.moved++;
        } else if (turn < changedShare + movedShare + removedShare) {
          expected.removed++;
        } else {
          entries.push([path, content]);
          if (turn >= 1 - addedShare) {
            if (isSecond) {
              entries.push([`${path}.new.dat`, `${content}, and new`]);
              expected.added++;
            }
          }
        }
      }
      writeFileSync(
        join(folder, `set_${String(first / this.perArchive).padStart(3, '0')}.zip`),
        storedZip(entries),
      );
    }
    return expected;
  }
}

/** A ZIP of entries that are not compressed (APPNOTE 4.3), as short as it gets. */
function storedZip(entries: readonly [string, string][]): Buffer {
  const parts: Buffer[] = [];
  const directory: Buffer[] = [];
  let offset = 0;
  for (const [name, content] of entries) {
    const nameBytes = Buffer.from(name);
    const bytes = Buffer.from(content);
    const common = Buffer.alloc(26);
    common.writeUInt16LE(10, 0);
    common.writeUInt32LE(crc32(bytes), 10);
    common.writeUInt32LE(bytes.length, 14);
    common.writeUInt32LE(bytes.length, 18);
    common.writeUInt16LE(nameBytes.length, 22);
    parts.push(Buffer.from('PK\x03\x04'), common, nameBytes, bytes);
    const place = Buffer.alloc(14);
    place.writeUInt32LE(offset, 10);
    directory.push(Buffer.from('PK\x01\x02\x14\x00', 'latin1'), common, place, nameBytes);
    offset += 30 + nameBytes.length + bytes.length;
  }
  const list = Buffer.concat(directory);
  const end = Buffer.alloc(22);
  end.write('PK\x05\x06', 0, 'latin1');
  end.writeUInt16LE(entries.length, 8);
  end.writeUInt16LE(entries.length, 10);
  end.writeUInt32LE(list.length, 12);
  end.writeUInt32LE(offset, 16);
  return Buffer.concat([...parts, list, end]);
}
