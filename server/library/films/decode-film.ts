import { stat } from 'node:fs/promises';
import pLimit from 'p-limit';
import { runProgram } from '../../ingest/containers/program.ts';
import { archivePath } from '../../ingest/containers/sandbox.ts';
import { PlainError, messageOf } from '../../platform/plain-error.ts';
import type { LocalContent } from '../../store/local-content.ts';

/** What takes each format apart: named, since the program would else take a list of other files for a film. */
const demuxers: Readonly<Record<string, string>> = { mp4: 'mov', webm: 'matroska' };
/** Pictures of a film are asked for by the dozen. */
const atOnce = 2;
const silenceMs = 20_000;
const mostFrameBytes = 8 * 1024 * 1024;

const inTurn = pLimit(atOnce);

/** Whether pictures and sound can be taken out of a format. */
export function isFilmFormat(format: string): boolean {
  return Object.hasOwn(demuxers, format);
}

/**
 * One picture of a film, by Debian's ffmpeg in the sandbox of the archivers.
 * @param seconds from its beginning
 * @param width in pixels, at most
 * @returns a JPEG file
 * @throws PlainError that says why there is none
 */
export function filmFrame(
  content: LocalContent,
  format: string,
  { seconds, width }: { seconds: number; width: number },
): Promise<Buffer> {
  return inTurn(async () => {
    const pieces: Buffer[] = [];
    let length = 0;
    const output = decoded(
      content,
      format,
      ['-ss', seconds.toFixed(3)],
      [
        ...['-map', '0:v:0', '-frames:v', '1', '-vf', `scale='min(${width},iw)':-2:out_range=full`],
        ...['-pix_fmt', 'yuvj420p', '-c:v', 'mjpeg', '-q:v', '4', '-f', 'image2pipe'],
      ],
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

/** The first sound of a film, as Opus in Ogg, while it is decoded. @throws ContainerError with what the program said */
export function filmSound(content: LocalContent, format: string): AsyncGenerator<Buffer> {
  return decoded(
    content,
    format,
    [],
    ['-map', '0:a:0', '-ac', '2', '-c:a', 'libopus', '-b:a', '128k', '-f', 'ogg'],
  );
}

async function* decoded(
  { file, offset, size }: LocalContent,
  format: string,
  before: readonly string[],
  after: readonly string[],
): AsyncGenerator<Buffer> {
  const { size: fileBytes } = await stat(file);
  const isWhole = offset === 0 && size === fileBytes;
  yield* runProgram({
    program: 'ffmpeg',
    args: [
      ...['-v', 'error', '-nostdin', '-threads', '1', ...before],
      ...['-protocol_whitelist', 'file,subfile', '-f', demuxers[format] ?? format],
      // One of many contents in a file is a part of that.
      ...['-i', isWhole ? archivePath : `subfile,,start,${offset},end,${offset + size},,:${archivePath}`],
      ...[...after, 'pipe:1'],
    ],
    ...{ input: '', file, silenceMs },
  });
}
