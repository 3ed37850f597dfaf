import { spawn } from 'node:child_process';
import { mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { PlainError } from '../platform/plain-error.ts';

/** Of ffmpeg: FLAC to the bit; Vorbis and Opus as well as these formats go. */
const codecs = {
  flac: ['-c:a', 'flac', '-compression_level', '5', '-f', 'flac'],
  ogg: ['-c:a', 'libvorbis', '-q:a', '7', '-f', 'ogg'],
  opus: ['-c:a', 'libopus', '-b:a', '160k', '-f', 'ogg'],
} as const;
const mostMs = 60_000;
const errorCharacters = 2000;

/**
 * Packs a WAV by Debian's ffmpeg. The WAV was written here: nothing of a stranger's file reaches the program.
 * @param comments by their names
 * @throws PlainError with what the program said
 */
export async function encodeSound(
  wave: Uint8Array,
  as: keyof typeof codecs,
  comments: Readonly<Record<string, string>>,
): Promise<Uint8Array> {
  const said = Object.entries(comments).flatMap(([name, value]) => ['-metadata', `${name}=${value}`]);
  // A file, since the checksum of FLAC and its length are written at the beginning when all is known.
  const folder = await mkdtemp(join(tmpdir(), 'worvel-sound-'));
  const file = join(folder, 'sound');
  try {
    await run(['-f', 'wav', '-i', 'pipe:0', ...said, ...codecs[as], file], wave);
    return await readFile(file);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function run(args: readonly string[], input: Uint8Array): Promise<void> {
  const child = spawn('ffmpeg', ['-v', 'error', '-nostdin', '-threads', '1', ...args], {
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
      `the sound could not be packed: ${complaint.trim().split('\n')[0] ?? `ffmpeg ended with ${code}`}`,
    );
}
