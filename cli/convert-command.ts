import { mkdtemp, rm, stat, open as openFile } from 'node:fs/promises';
import { basename, dirname, join, resolve as absolute } from 'node:path';
import { haulSettingsSchema, writtenFormats, type HaulSettings } from '../contract/haul-settings.ts';
import { bytesText } from '../core/figures.ts';
import { formatOf } from '../core/kinds/formats.ts';
import { identify } from '../core/kinds/identify.ts';
import { namedPictureOf, spaceOfRole } from '../core/names/texture-sets.ts';
import { Lexicon } from '../core/names/lexicon.ts';
import { ReaderPool } from '../server/decode/reader-pool.ts';
import { ReaderProcesses } from '../server/decode/reader-processes.ts';
import { putInPlace } from '../server/hauls/put-in-place.ts';
import { PlainError, codeOf, messageOf } from '../server/platform/plain-error.ts';
import type { LocalContent } from '../server/store/local-content.ts';
import { settingsWith } from './haul-settings.ts';
import { UsageError } from './usage-error.ts';

export interface ConvertOptions {
  to: string;
  out?: string;
  unit?: string;
  up?: string;
  placed?: string;
  helpers?: string;
  levels?: string;
  green?: string;
  quality?: number;
  bits?: string;
  crop?: string;
  scale?: number;
  set: string[];
  json?: boolean;
}

type WrittenKind = keyof typeof writtenFormats;
const settingsNames = {
  picture: 'pictures',
  model: 'models',
  clip: 'clips',
  sound: 'sounds',
  map: 'maps',
  text: 'texts',
} as const satisfies Record<WrittenKind, keyof HaulSettings>;
const headBytes = 1024;

/** Writes single files in another format, without a title, and reads them again. Ends with 1 where one could not be written. */
export async function convertCommand(files: readonly string[], options: ConvertOptions): Promise<void> {
  const folder = absolute(options.out ?? '.');
  if (!(await stat(folder).catch(() => null))?.isDirectory()) throw new UsageError(`${folder} is no folder.`);
  const processes = new ReaderProcesses(0);
  const readers = new ReaderPool(processes, { readers: 1, seconds: 600 });
  const staging = await mkdtemp(join(folder, '.worvel-')).catch((error: unknown) => {
    throw new PlainError(`${folder} cannot be written to: ${messageOf(error)}`);
  });
  try {
    for (const [at, file] of files.entries()) {
      const line = await convert(file, options, readers, { folder, staging, prefix: String(at) }).catch(
        (error: unknown) => {
          process.exitCode = 1;
          return { file, error: messageOf(error) };
        },
      );
      process.stdout.write(options.json ? `${JSON.stringify(line)}\n` : textOf(line));
    }
  } finally {
    readers.close();
    processes.close();
    await rm(staging, { recursive: true, force: true });
  }
}

type Line =
  | { file: string; error: string }
  | {
      file: string;
      written: { target: string; bytes: number; sha256: string }[];
      losses: string[];
      notes: string[];
      verdict: string;
      sentence: string;
    };

function textOf(line: Line): string {
  if ('error' in line) return `${line.file}: ${line.error}\n`;
  const files = line.written.map(({ target, bytes }) => `  ${target}  ${bytesText(bytes)}`);
  const read =
    line.verdict === 'the same'
      ? '  Read again: the same.'
      : `  Read again: ${line.sentence || line.verdict}`;
  const lost = line.losses.length > 0 ? [`  This format does not hold ${line.losses.join(', ')}.`] : [];
  return `${[line.file, ...files, ...lost, ...line.notes.map((note) => `  ${note}.`), read].join('\n')}\n`;
}

async function convert(
  file: string,
  options: ConvertOptions,
  readers: ReaderPool,
  { folder, staging, prefix }: { folder: string; staging: string; prefix: string },
): Promise<Line> {
  const content = await localContent(file);
  const { format } = identify(await head(file), file);
  const { kind } = formatOf(format);
  if (!(kind in writtenFormats)) throw new PlainError(`files of format ${format} are not converted.`);
  const settings = settingsFor(kind as WrittenKind, options);
  const stem = basename(file).replace(/\.[^.]*$/, '');
  const named = namedPictureOf(file, new Lexicon([]));
  const outcome = await readers.run(
    {
      type: 'write',
      content: { path: file, format, content },
      writing: {
        kind,
        settings,
        stem,
        space: named.isRoleSaid ? spaceOfRole(named.role) : null,
        isNormal: named.role === 'normal',
        worn: [],
        leftOut: [],
        together: [],
        arrangement: null,
      },
      folder: staging,
      prefix,
    },
    async (reference) => localContent(join(dirname(file), reference)).catch(() => null),
  );
  if (!outcome.written)
    throw new PlainError(`${(outcome.reason ?? 'nothing came of it').replace(/\.$/, '')}.`);
  const { files, losses, notes, proof } = outcome.written;
  const written = await putInPlace(files, folder, stem, false);
  return { file, written, losses, notes, ...proof };
}

/** @throws UsageError for what a kind is not written as */
function settingsFor(kind: WrittenKind, options: ConvertOptions): HaulSettings {
  const as = options.to === 'jpg' ? 'jpeg' : options.to;
  const { unit, up, placed, helpers, levels, green, quality, bits, crop, scale } = options;
  const chosen = { as, unit, up, placed, helpers, levels, green, quality, bits, crop, scale };
  const said = Object.fromEntries(Object.entries(chosen).filter(([, value]) => value !== undefined));
  const parsed = haulSettingsSchema.safeParse({
    models: { ...said, as: 'glb' },
    [settingsNames[kind]]: said,
  });
  if (parsed.success) return settingsWith(parsed.data, options.set);
  const formats = writtenFormats[kind].slice(1);
  if (!formats.some((known) => known === as))
    throw new UsageError(`A ${kind} is not written as ${options.to}: ${formats.join(', ')} are known.`);
  throw new UsageError(
    parsed.error.issues.map(({ path, message }) => `${path.join('.')}: ${message}`).join('\n'),
  );
}

async function localContent(file: string): Promise<LocalContent> {
  const found = await stat(file).catch((error: unknown) => {
    throw new PlainError(codeOf(error) === 'ENOENT' ? 'there is no such file.' : messageOf(error));
  });
  if (!found.isFile()) throw new PlainError('this is no file.');
  return { hash: '', size: found.size, file: absolute(file), offset: 0 };
}

async function head(file: string): Promise<Uint8Array> {
  const opened = await openFile(file);
  try {
    const { buffer, bytesRead } = await opened.read(Buffer.alloc(headBytes), 0, headBytes, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await opened.close();
  }
}
