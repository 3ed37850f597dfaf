/** Something that files are put back into: a copy of it is written, and it is never touched itself. */
export interface ArchiveCopy {
  /** Names of its files, as the game asks for them. */
  names(): Promise<string[]>;
  /** What lies at a name now. */
  read(name: string): Promise<Buffer>;
  /**
   * Writes the copy.
   * @param changed files by the names that they take the place of
   * @param target which is not there yet
   * @returns what else people may want to know, in sentences
   */
  write(target: string, changed: ReadonlyMap<string, string>): Promise<string[]>;
  close(): void;
}
