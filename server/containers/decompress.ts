import { Readable } from 'node:stream';
import { createBrotliDecompress, createGunzip } from 'node:zlib';
import { ContainerError } from '../../core/containers/container-error.ts';
import { messageOf } from '../plain-error.ts';
import { pieces, type ByteSource } from './byte-source.ts';
import { runProgram } from './program.ts';

export type SingleFormat = 'gzip' | 'brotli' | 'bzip2' | 'xz' | 'zstd' | 'lz4';

/** What a compressed stream unpacks to. @throws ContainerError when it is damaged or cut short */
export async function* decompress(format: SingleFormat, source: ByteSource): AsyncGenerator<Buffer> {
  if (format !== 'gzip' && format !== 'brotli') {
    yield* runProgram({ program: format, args: ['-dcq'], input: source });
    return;
  }
  const options = { chunkSize: 256 * 1024 };
  const unpacker = format === 'gzip' ? createGunzip(options) : createBrotliDecompress(options);
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
