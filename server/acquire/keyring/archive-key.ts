/** A key of a title's keyring, opened for use. It stays in the memory of the threads that read. */
export interface ArchiveKey {
  id: number;
  /** A passphrase in UTF-8, or the bytes of a raw key. */
  bytes: Uint8Array;
}

const utf8 = new TextDecoder('utf-8', { fatal: true });

/** The key as a text, for formats that take nothing else; null where it is none. */
export function passphraseOf({ bytes }: ArchiveKey): string | null {
  try {
    const text = utf8.decode(bytes);
    return /[\r\n\0]/.test(text) ? null : text;
  } catch {
    return null;
  }
}
