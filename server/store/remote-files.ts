/** Files that lie on another machine, by name. All that is put is there as a whole, or not at all. */
export interface RemoteFiles {
  /** Puts a file of this machine there; what has the name already is replaced. */
  put(name: string, file: string): Promise<void>;
  /** Writes one to a file of this machine. @throws NotFoundError */
  fetch(name: string, file: string): Promise<void>;
  /** A part of one. @throws NotFoundError */
  fetchPart(name: string, offset: number, size: number): Promise<Buffer>;
  /** Takes one away; no matter whether it is there. */
  remove(name: string): Promise<void>;
  /** Names that begin with something, and sizes in bytes. */
  list(beginning: string): AsyncIterable<{ name: string; bytes: number }>;
}
