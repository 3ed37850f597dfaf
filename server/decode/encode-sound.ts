import { spawn } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PlainError } from '../platform/plain-error.ts';

type Packing = 'flac' | 'ogg' | 'opus';

/** FLAC by Xiph's own program, which starts ten times as fast; Vorbis and Opus, as well as these formats go, by ffmpeg. */
function commandOf(
  as: Packing,
  comments: Readonly<Record<string, string>>,
  file: string,
): [string, ...string[]] {
  const said = Object.entries(comments).map(([name, value]) => `${name}=${value}`);
  if (as === 'flac')
    return ['flac', '-s', '-f', '-5', '--no-padding', ...said.flatMap((one) => ['-T', one]), '-o', file, '-'];
  const codec =
    as === 'ogg'
      ? ['-c:a', 'libvorbis', '-q:a', '7', '-f', 'ogg']
      : ['-c:a', 'libopus', '-b:a', '160k', '-f', 'ogg'];
  return [
    ...(['ffmpeg', '-v', 'error', '-nostdin', '-threads', '1', '-f', 'wav', '-i', 'pipe:0'] as const),
    ...[...said.flatMap((one) => ['-metadata', one]), ...codec, file],
  ];
}

const mostMs = 60_000;
const errorCharacters = 2000;

/**
 * Packs a WAV by programs of Debian's. The WAV was written here: nothing of a stranger's file reaches the program.
 * @param comments by their names
 * @throws PlainError with what the program said
 */
export async function encodeSound(
  wave: Uint8Array,
  as: Packing,
  comments: Readonly<Record<string, string>>,
): Promise<Uint8Array> {
  // A file, since the checksum of FLAC and its length are written at the beginning when all is known.
  const folder = await mkdtemp(join(tmpdir(), 'worvel-sound-'));
  const file = join(folder, 'sound');
  try {
    await run(commandOf(as, comments, file), wave);
    return await readFile(file);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function run([program, ...args]: readonly [string, ...string[]], input: Uint8Array): Promise<void> {
  const child = spawn(program, args, {
    stdio: ['pipe', 'ignore', 'pipe'],
    timeout: mostMs,
    killSignal: 'SIGKILL',
  });
  let complaint = '';
  child.stderr.on('data', (piece: Buffer) => {
    if (complaint.length < errorCharacters) complaint += piece.toString('utf8');
  });
  // A program that has failed closes its end.
  child.stdin.on('error', () => undefined);
  child.stdin.end(input);
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('error', reject);
    child.on('close', resolve);
  });
  if (code !== 0)
    throw new PlainError(
      `the sound could not be packed: ${complaint.trim().split('\n')[0] ?? `${program} ended with ${code}`}`,
    );
}
