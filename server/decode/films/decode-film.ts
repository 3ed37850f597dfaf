import { stat } from 'node:fs/promises';
import pLimit from 'p-limit';
import { runProgram } from '../../ingest/containers/program.ts';
import { archivePath } from '../../ingest/containers/sandbox.ts';
import { PlainError, messageOf } from '../../platform/plain-error.ts';
import type { LocalContent } from '../../store/local-content.ts';

/** What takes each format apart: named, since the programs would else take a list of other files for a film. */
const demuxers: Readonly<Record<string, string>> = {
  mp4: 'mov',
  webm: 'matroska',
  avi: 'avi',
  'ogg-film': 'ogg',
  mpeg: 'mpeg,mpegvideo',
};
/** Pictures of a film are asked for by the dozen. */
const atOnce = 2;
const silenceMs = 20_000;
const mostFrameBytes = 8 * 1024 * 1024;
/** So many pictures are looked through for the one that stands for them. */
const lookedThrough = 24;

/**
 * So much before a moment the program goes in, and decodes from there: a format without a list of its pictures has them looked
 * for, and the first that is found may lie behind the moment. A picture also stays where nothing follows for a while.
 */
const leadSeconds: Readonly<Record<string, number>> = { mpeg: 10, 'ogg-film': 10 };

const inTurn = pLimit(atOnce);

/** Whether pictures and sound can be taken out of a format. */
export function isFilmFormat(format: string): boolean {
  return Object.hasOwn(demuxers, format);
}

/**
 * One picture of a film, by Debian's ffmpeg in the sandbox of the archivers.
 * @param seconds from its beginning
 * @param width in pixels, at most
 * @param isTypical whether the most typical of those that follow is meant, rather than the very one
 * @param signal aborted when nobody waits for it any more
 * @returns a JPEG file
 * @throws PlainError that says why there is none
 */
export function filmFrame(
  content: LocalContent,
  format: string,
  {
    seconds,
    width,
    isTypical = false,
    signal,
  }: { seconds: number; width: number; isTypical?: boolean; signal?: AbortSignal },
): Promise<Buffer> {
  return inTurn(async () => {
    const pieces: Buffer[] = [];
    let length = 0;
    const lead = leadSeconds[format] ?? 0;
    const smaller = `scale='min(${width},iw)':-2:out_range=full,tpad=stop_mode=clone:stop_duration=${lead}`;
    const jump = Math.max(0, seconds - lead);
    const output = decoded(
      content,
      format,
      ['-ss', jump.toFixed(3)],
      [
        ...['-ss', (seconds - jump).toFixed(3)],
        ...['-map', '0:v:0', '-frames:v', '1'],
        ...['-vf', isTypical ? `${smaller},thumbnail=${lookedThrough}` : smaller],
        ...['-pix_fmt', 'yuvj420p', '-c:v', 'mjpeg', '-q:v', '4', '-f', 'image2pipe'],
      ],
      signal,
    );
    try {
      for await (const piece of output) {
        length += piece.length;
        if (length > mostFrameBytes) throw new PlainError('it is larger than any picture of a film may be');
        pieces.push(piece);
      }
    } catch (error) {
      // What the program complains of may lie elsewhere in the film.
      if (length === 0 || error instanceof PlainError)
        throw new PlainError(`This picture cannot be taken out of the film: ${messageOf(error)}.`);
    }
    if (length === 0) throw new PlainError('The film has no picture at this moment.');
    return Buffer.concat(pieces);
  });
}

/**
 * The first sound of a film, as Opus in Ogg, while it is decoded.
 * @param signal ends the program, whatever it is in the middle of
 * @throws ContainerError with what the program said
 */
export function filmSound(
  content: LocalContent,
  format: string,
  signal?: AbortSignal,
): AsyncGenerator<Buffer> {
  return decoded(
    content,
    format,
    [],
    ['-map', '0:a:0', '-ac', '2', '-c:a', 'libopus', '-b:a', '128k', '-f', 'ogg'],
    signal,
  );
}

/** What each of its tracks is coded as, in bytes: the hashes of all its packets. @throws ContainerError */
export async function filmTracks(content: LocalContent, format: string): Promise<Uint8Array[]> {
  const pieces: Buffer[] = [];
  const output = decoded(
    content,
    format,
    [],
    ['-map', '0', '-c', 'copy', '-f', 'streamhash', '-hash', 'sha256'],
  );
  for await (const piece of output) pieces.push(piece);
  return Buffer.concat(pieces)
    .toString('utf8')
    .split('\n')
    .filter((line) => line !== '')
    .map((line) => Buffer.from(line));
}

async function* decoded(
  content: LocalContent,
  format: string,
  before: readonly string[],
  after: readonly string[],
  signal?: AbortSignal,
): AsyncGenerator<Buffer> {
  yield* runProgram({
    program: 'ffmpeg',
    args: [
      ...['-v', 'error', '-nostdin', '-threads', '1', ...before],
      ...[...(await inputOf(content, format)), ...after, 'pipe:1'],
    ],
    ...{ input: '', file: content.file, silenceMs, signal },
  });
}

/** What both programs are told of the film: that it is the only file, and of what format. */
export async function inputOf({ file, offset, size }: LocalContent, format: string): Promise<string[]> {
  const { size: fileBytes } = await stat(file);
  const isWhole = offset === 0 && size === fileBytes;
  return [
    ...['-protocol_whitelist', 'file,subfile', '-format_whitelist', demuxers[format] ?? 'none'],
    // One of many contents in a file is a part of that.
    ...['-i', isWhole ? archivePath : `subfile,,start,${offset},end,${offset + size},,:${archivePath}`],
  ];
}
