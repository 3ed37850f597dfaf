import { ContainerError } from '../../../core/containers/container-error.ts';
import { nameOfBytes } from '../../../core/containers/entry-name.ts';
import type { ByteSource } from './byte-source.ts';
import type { PlacedEntry } from './placed-entry.ts';

const magicBytes = 8;
const headerBytes = 60;
const maximumNameBytes = 4096;
const maximumNamesBytes = 64 * 1024 * 1024;

/**
 * Goes from header to header of an ar archive, which packages of Debian are too (deb(5)). Names as System V and GNU write
 * them (`name/`, and `/12` into a table of long ones) and as BSD does (`#1/12`, the name before the contents); ar(5).
 * @throws ContainerError where a header is damaged, or the archive is cut short; what came before counts
 */
export function* listAr(source: ByteSource): Generator<PlacedEntry> {
  let longNames: Buffer = Buffer.alloc(0);
  for (let at = magicBytes; at < source.size;) {
    const header = Buffer.from(source.read(at, headerBytes));
    if (header.length < headerBytes) throw cutShort(at);
    if (header.toString('latin1', 58, 60) !== '`\n')
      throw new ContainerError(`its header at byte ${at} is damaged`);
    const text = header.toString('latin1', 48, 58).trim();
    if (!/^\d+$/.test(text)) throw new ContainerError(`a size in its header at byte ${at} is no number`);
    let size = Number(text);
    let offset = at + headerBytes;
    if (offset + size > source.size) throw cutShort(at);
    const begin = at;
    // Contents begin at even offsets.
    at = offset + size + (size % 2);
    let name: Buffer = header.subarray(0, 16);
    const field = name.toString('latin1').trimEnd();
    if (field === '//') {
      if (size > maximumNamesBytes)
        throw new ContainerError('its table of long names is too large to be one');
      longNames = Buffer.from(source.read(offset, size));
      continue;
    }
    // Tables of symbols: no files.
    if (field === '/' || field === '/SYM64/' || field.startsWith('__.SYMDEF')) continue;
    if (/^\/\d+$/.test(field)) {
      const from = Number(field.slice(1));
      const end = longNames.indexOf('\n', from);
      name = longNames.subarray(from, end < 0 ? longNames.length : end);
    } else if (/^#1\/\d+$/.test(field)) {
      const length = Math.min(Number(field.slice(3)), size);
      if (length > maximumNameBytes)
        throw new ContainerError(`the length of a name in its header at byte ${begin} is impossible`);
      name = Buffer.from(source.read(offset, length));
      offset += length;
      size -= length;
    }
    const plain = nameOfBytes(name).replace(/\0+$/, '').trimEnd().replace(/\/$/, '');
    yield { name: plain, type: 'file', size, offset, headerOffset: begin, target: null, refused: null };
  }
}

function cutShort(at: number): ContainerError {
  return new ContainerError(`it is cut short: its header at byte ${at} promises more than is there`);
}
