import * as zip from '@zip.js/zip.js';
import { ContainerError } from '../../../core/containers/container-error.ts';
import { messageOf } from '../../platform/plain-error.ts';
import type { ArchiveKey } from '../../acquire/keyring/archive-key.ts';
import type { ByteSource } from './byte-source.ts';
import type { ZipEntry } from './zip.ts';

zip.configure({ useWebWorkers: false });

/** The locked entries of a ZIP: WinZip's AES (AE-1 and AE-2) and the traditional cipher (APPNOTE 6.1). */
export class LockedZip {
  private readonly source: ByteSource;
  private keys: readonly ArchiveKey[];
  private reader: zip.ZipReader<unknown> | null = null;
  private entries: Promise<Map<number, zip.FileEntry>> | null = null;

  constructor(source: ByteSource, keys: readonly ArchiveKey[]) {
    this.source = source;
    this.keys = keys;
  }

  /**
   * Keys that pass the format's own quick check, which a wrong one does by chance: one of 256 with the traditional
   * cipher, of 65,536 with AES.
   */
  async keysFor(entry: ZipEntry): Promise<ArchiveKey[]> {
    const fitting: ArchiveKey[] = [];
    if (this.keys.length === 0) return fitting;
    const file = await this.find(entry);
    for (const key of this.keys) {
      try {
        await file.getData(new WritableStream(), { rawPassword: key.bytes, checkPasswordOnly: true });
        fitting.push(key);
      } catch (error) {
        if (messageOf(error) !== zip.ERR_INVALID_PASSWORD) throw damaged(error);
      }
    }
    return fitting;
  }

  /** Tries this key first from now on. */
  remember(key: ArchiveKey): void {
    if (this.keys[0] !== key) this.keys = [key, ...this.keys.filter((other) => other !== key)];
  }

  /** @throws ContainerError when the data or their checksums are wrong: they are damaged, or the key is the wrong one */
  async *stream(entry: ZipEntry, key: ArchiveKey): AsyncGenerator<Buffer> {
    const file = await this.find(entry);
    const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
    const done = file.getData(writable, { rawPassword: key.bytes, checkCrc32: true });
    // It is heard of below; until then it must not count as unheard.
    done.catch(() => undefined);
    let length = 0;
    try {
      for await (const piece of readable as unknown as AsyncIterable<Uint8Array>) {
        length += piece.length;
        if (length > entry.unpackedBytes)
          throw new ContainerError('it unpacks to more than the archive says');
        yield Buffer.from(piece.buffer, piece.byteOffset, piece.byteLength);
      }
      await done;
    } catch (error) {
      throw error instanceof ContainerError ? error : damaged(error);
    }
    if (length !== entry.unpackedBytes) throw new ContainerError('it unpacks to less than the archive says');
  }

  async close(): Promise<void> {
    await this.reader?.close();
  }

  private async find({ headerOffset }: ZipEntry): Promise<zip.FileEntry> {
    this.entries ??= this.list();
    const file = (await this.entries).get(headerOffset);
    if (!file) throw new ContainerError('its header cannot be read');
    return file;
  }

  private async list(): Promise<Map<number, zip.FileEntry>> {
    this.reader = new zip.ZipReader(new SourceReader(this.source), { useWebWorkers: false });
    const files = new Map<number, zip.FileEntry>();
    try {
      for await (const entry of this.reader.getEntriesGenerator())
        if (!entry.directory) files.set(entry.offset, entry);
    } catch (error) {
      throw damaged(error);
    }
    return files;
  }
}

function damaged(error: unknown): ContainerError {
  return new ContainerError(
    `its locked data are damaged, or the key is not the right one: ${messageOf(error)}`,
  );
}

class SourceReader extends zip.Reader<ByteSource> {
  private readonly bytes: ByteSource;

  constructor(source: ByteSource) {
    super(source);
    this.bytes = source;
    this.size = source.size;
  }

  override readUint8Array(index: number, length: number): Promise<Uint8Array> {
    return Promise.resolve(Uint8Array.from(this.bytes.read(index, length)));
  }
}
