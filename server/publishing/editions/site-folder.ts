import { createHash } from 'node:crypto';
import { execFile } from 'node:child_process';
import { mkdir, readFile, rm, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { promisify } from 'node:util';
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
 * A site while it is written, beside the edition before: that is linked whole at first, file by file, and what is another one
 * takes the place of its link. No file of the edition before is ever written to. Linking each file when it is kept took four
 * times as long.
 */
export class SiteFolder {
  readonly sums = new Map<string, string>();
  /** Files that were written, and not kept. */
  written = 0;
  private readonly made = new Set<string>();

  private constructor(
    readonly folder: string,
    private readonly former: ReadonlyMap<string, string>,
  ) {}

  /** @param folder an empty one @param former of the edition before; it may not be there */
  static async open(folder: string, former: string): Promise<SiteFolder> {
    const sums = await readSums(former);
    if (sums.size === 0) return new SiteFolder(folder, sums);
    const copy = (how: string): Promise<unknown> => runProgram('cp', [how, '-T', former, folder]);
    // Where the file system has no links, the files are copied.
    await copy('-al').catch(() => copy('-a'));
    const there = new Set(await filesOf(folder));
    return new SiteFolder(folder, new Map([...sums].filter(([path]) => there.has(path))));
  }

  /** Whether the edition before has a file, with these bytes. */
  has(path: string, sum?: string): boolean {
    const known = this.former.get(path);
    return known !== undefined && (sum === undefined || known === sum);
  }

  /** Writes a file, unless it is there already. What several entries show is written once, whoever comes first. */
  async put(path: string, content: string | Uint8Array): Promise<void> {
    const sum = sumOf(content);
    if (this.sums.get(path) === sum) return;
    if (this.has(path, sum)) {
      this.keep(path);
      return;
    }
    this.sums.set(path, sum);
    const file = join(this.folder, path);
    const folder = dirname(file);
    if (!this.made.has(folder)) {
      await mkdir(folder, { recursive: true });
      this.made.add(folder);
    }
    // The link goes: what it links to stays as it is.
    if (this.former.has(path)) await rm(file, { force: true });
    await writeFile(file, content, { flag: 'wx' });
    this.written++;
  }

  /** Has a file of the edition before in this one too. @returns whether that has it */
  keep(path: string): boolean {
    const sum = this.former.get(path);
    if (sum === undefined) return this.sums.has(path);
    if (!this.sums.has(path)) this.sums.set(path, sum);
    return true;
  }

  /** Takes away what belongs to this edition no more, and writes the list of what does. @returns its text */
  async finish(): Promise<string> {
    for (const path of await filesOf(this.folder))
      if (!this.sums.has(path)) await rm(join(this.folder, path), { force: true });
    await runProgram('find', [this.folder, '-mindepth', '1', '-type', 'd', '-empty', '-delete']);
    const text = [...this.sums]
      .sort(([a], [b]) => (a < b ? -1 : 1))
      .map(([path, sum]) => `${sum}  ${path}\n`)
      .join('');
    await writeFile(join(this.folder, sumsName), text, { flag: 'wx' });
    return text;
  }
}

const runProgram = promisify(execFile);

/** All that lies below a folder and is no folder, with paths from there. */
async function filesOf(folder: string): Promise<string[]> {
  const most = 1024 * 1024 * 1024;
  const { stdout } = await runProgram('find', [folder, '-not', '-type', 'd', '-printf', '%P\\0'], {
    maxBuffer: most,
  });
  return stdout.split('\0').slice(0, -1);
}
