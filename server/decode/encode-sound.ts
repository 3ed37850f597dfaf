import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PlainError } from '../platform/plain-error.ts';
import { SmallShell } from './small-shell.ts';

type Packing = 'flac' | 'ogg' | 'opus';

/** FLAC by Xiph's own program, which starts ten times as fast; Vorbis and Opus, as well as these formats go, by ffmpeg. */
function commandOf(
  as: Packing,
  comments: Readonly<Record<string, string>>,
  source: string,
  target: string,
): [string, ...string[]] {
  const said = Object.entries(comments).map(([name, value]) => `${name}=${value}`);
  if (as === 'flac')
    return [
      'flac',
      '-s',
      '-f',
      '-5',
      '--no-padding',
      ...said.flatMap((one) => ['-T', one]),
      '-o',
      target,
      source,
    ];
  const codec =
    as === 'ogg'
      ? ['-c:a', 'libvorbis', '-q:a', '7', '-f', 'ogg']
      : ['-c:a', 'libopus', '-b:a', '160k', '-f', 'ogg'];
  return [
    ...(['ffmpeg', '-v', 'error', '-nostdin', '-threads', '1', '-f', 'wav', '-i', source] as const),
    ...[...said.flatMap((one) => ['-metadata', one]), ...codec, target],
  ];
}

const mostSeconds = 60;
const shell = new SmallShell();

/**
 * Packs a WAV by programs of Debian's. The WAV was written here: nothing of a stranger's file reaches the program. FLAC is read
 * again by its own program, which tells whether what comes out is what its checksum was made of.
 * @param comments by their names
 * @throws PlainError with what the program said
 */
export async function encodeSound(
  wave: Uint8Array,
  as: Packing,
  comments: Readonly<Record<string, string>>,
): Promise<Uint8Array> {
  const folder = await mkdtemp(join(tmpdir(), 'worvel-sound-'));
  const [source, target, complaints] = [join(folder, 'wave'), join(folder, 'sound'), join(folder, 'said')];
  try {
    await writeFile(source, wave);
    const commands = [commandOf(as, comments, source, target)];
    if (as === 'flac') commands.push(['flac', '-s', '-t', target]);
    for (const command of commands) {
      const code = await shell.run(command, complaints, mostSeconds);
      if (code !== 0) throw new PlainError(`the sound could not be packed: ${await said(complaints, code)}`);
    }
    return await readFile(target);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function said(complaints: string, code: number): Promise<string> {
  const text = await readFile(complaints, 'utf8');
  return text.trim().split('\n')[0] || `the program ended with ${code}`;
}
