import { Readable } from 'node:stream';
import { createBrotliDecompress, createGunzip, createInflateRaw } from 'node:zlib';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { messageOf } from '../../platform/plain-error.ts';
import { pieces, type ByteSource } from './byte-source.ts';
import { runProgram } from './program.ts';

export type StreamFormat = 'deflate' | 'gzip' | 'brotli' | 'bzip2' | 'xz' | 'zstd' | 'lz4';

/** Those that Node.js unpacks itself; Debian's programs of the same names do the others. */
const unpackers = {
  deflate: createInflateRaw,
  gzip: createGunzip,
  brotli: createBrotliDecompress,
} as const;

/** What a compressed stream unpacks to. @throws ContainerError when it is damaged or cut short */
export async function* decompress(format: StreamFormat, source: ByteSource): AsyncGenerator<Buffer> {
  if (!(format in unpackers)) {
    yield* runProgram({ program: format, args: ['-dcq'], input: source });
    return;
  }
  const unpacker = unpackers[format as keyof typeof unpackers]({ chunkSize: 256 * 1024 });
  const packed = Readable.from(pieces(source));
  packed.on('error', (error) => unpacker.destroy(error)).pipe(unpacker);
  try {
    for await (const piece of unpacker) yield piece as Buffer;
  } catch (error) {
    throw error instanceof ContainerError
      ? error
      : new ContainerError(`its data are damaged: ${messageOf(error)}`);
  } finally {
    packed.destroy();
    unpacker.destroy();
  }
}
