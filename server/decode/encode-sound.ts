import { spawn } from 'node:child_process';
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
 * @throws PlainError with what the program said
 */
export async function encodeSound(
  wave: Uint8Array,
  as: keyof typeof codecs,
  comments: Readonly<Record<string, string>>,
): Promise<Uint8Array> {
  const said = Object.entries(comments).flatMap(([name, value]) => ['-metadata', `${name}=${value}`]);
  const child = spawn(
    'ffmpeg',
    [
      '-v',
      'error',
      '-nostdin',
      '-threads',
      '1',
      '-f',
      'wav',
      '-i',
      'pipe:0',
      ...said,
      ...codecs[as],
      'pipe:1',
    ],
    { stdio: ['pipe', 'pipe', 'pipe'], timeout: mostMs, killSignal: 'SIGKILL' },
  );
  const pieces: Buffer[] = [];
  let complaint = '';
  child.stdout.on('data', (piece: Buffer) => void pieces.push(piece));
  child.stderr.on('data', (piece: Buffer) => {
    if (complaint.length < errorCharacters) complaint += piece.toString('utf8');
  });
  // A program that has failed closes its end.
  child.stdin.on('error', () => undefined);
  child.stdin.end(wave);
  const code = await new Promise<number | null>((resolve, reject) => {
    child.on('error', reject);
    child.on('close', resolve);
  });
  if (code !== 0)
    throw new PlainError(
      `the sound could not be packed: ${complaint.trim().split('\n')[0] ?? `ffmpeg ended with ${code}`}`,
    );
  return Buffer.concat(pieces);
}
