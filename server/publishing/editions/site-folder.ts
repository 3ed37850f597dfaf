import { createHash } from 'node:crypto';
import { copyFile, link, mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { codeOf } from '../../platform/plain-error.ts';

export const sumsName = 'SHA256SUMS';

/** Sums of a site's files by path, as `sha256sum` writes and checks them. Empty where there is no such list. */
export async function readSums(folder: string): Promise<Map<string, string>> {
  let text: string;
  try {
    text = await readFile(join(folder, sumsName), 'utf8');
  } catch (error) {
    if (codeOf(error) === 'ENOENT') return new Map();
    throw error;
  }
  return new Map(
    text.split('\n').flatMap((line) => {
      const [, sum, path] = /^([0-9a-f]{64}) {2}(.+)$/.exec(line) ?? [];
      return sum !== undefined && path !== undefined ? [[path, sum] as const] : [];
    }),
  );
}

export function sumOf(bytes: string | Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/**
 * A site while it is written, beside the edition before: files that stay the same are linked from there, so that only what
 * changed is written. No file of the edition before is ever written to.
 */
export class SiteFolder {
  readonly sums = new Map<string, string>();
  /** Files that were written, and not kept. */
  written = 0;
  private readonly made = new Set<string>();

  constructor(
    readonly folder: string,
    private readonly former: { folder: string; sums: ReadonlyMap<string, string> },
  ) {}

  /** Whether the edition before has a file with these bytes. */
  has(path: string, sum?: string): boolean {
    const known = this.former.sums.get(path);
    return known !== undefined && (sum === undefined || known === sum);
  }

  async put(path: string, content: string | Uint8Array): Promise<void> {
    const sum = sumOf(content);
    if (this.has(path, sum) && (await this.keep(path))) return;
    await this.makeRoom(path);
    await writeFile(join(this.folder, path), content, { flag: 'wx' });
    this.sums.set(path, sum);
    this.written++;
  }

  /** Has a file of the edition before in this one too. @returns whether that has it */
  async keep(path: string): Promise<boolean> {
    if (this.sums.has(path)) return true;
    const sum = this.former.sums.get(path);
    if (sum === undefined) return false;
    const [from, to] = [join(this.former.folder, path), join(this.folder, path)];
    await this.makeRoom(path);
    try {
      await link(from, to);
    } catch (error) {
      const code = codeOf(error);
      if (code === 'ENOENT') return false;
      if (code === 'EEXIST') return true;
      // On another file system, or one without links.
      await copyFile(from, to);
    }
    this.sums.set(path, sum);
    return true;
  }

  private async makeRoom(path: string): Promise<void> {
    const folder = dirname(join(this.folder, path));
    if (this.made.has(folder)) return;
    await mkdir(folder, { recursive: true });
    this.made.add(folder);
  }

  /** The list of all files with their sums, as text: the same for the same files. */
  sumsText(): string {
    return [...this.sums]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([path, sum]) => `${sum}  ${path}\n`)
      .join('');
  }
}
