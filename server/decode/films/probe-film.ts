import * as z from 'zod';
import type { FilmFacts } from '../../../contract/facts.ts';
import { programText } from '../../ingest/containers/program.ts';
import { PlainError } from '../../platform/plain-error.ts';
import type { LocalContent } from '../../store/local-content.ts';
import { inputOf } from './decode-film.ts';

const mostBytes = 4 * 1024 * 1024;
const silenceMs = 20_000;

const streamSchema = z.object({
  codec_type: z.string().optional(),
  codec_name: z.string().optional(),
  width: z.number().int().optional(),
  height: z.number().int().optional(),
  /** As a fraction, `30000/1001`; `0/0` where it has none. */
  avg_frame_rate: z.string().default('0/0'),
  sample_rate: z.coerce.number().optional(),
  channels: z.number().int().optional(),
  duration: z.coerce.number().optional(),
  nb_read_packets: z.coerce.number().optional(),
  tags: z.record(z.string(), z.string()).default({}),
});
const probeSchema = z.object({
  format: z
    .object({ format_long_name: z.string().default(''), duration: z.coerce.number().optional() })
    .optional(),
  streams: z.array(streamSchema).max(1000).default([]),
  error: z.object({ string: z.string() }).optional(),
});
type Probe = z.infer<typeof probeSchema>;
type Stream = Probe['streams'][number];

const sorts: Readonly<Record<string, FilmFacts['tracks'][number]['sort']>> = {
  video: 'video',
  audio: 'audio',
  subtitle: 'subtitle',
};

/** What the container of a film says, as Debian's ffprobe reads it, in the sandbox. @throws PlainError that says why not */
export async function probeFilm(content: LocalContent, format: string): Promise<FilmFacts> {
  const probe = await ask(content, format, []);
  const tracks = probe.streams.flatMap((stream) => trackOf(stream) ?? []);
  if (tracks.length === 0) throw new PlainError('it has no track of pictures or sound');
  return {
    kind: 'film',
    seconds: secondsOf(probe) ?? (await countedSeconds(content, format)),
    container: probe.format?.format_long_name ?? '',
    tracks,
  };
}

/** Pictures without a container say nothing of their length: they are counted. 0 where that takes too long. */
async function countedSeconds(content: LocalContent, format: string): Promise<number> {
  const counted = await ask(content, format, ['-count_packets']).catch(() => null);
  return (counted && secondsOf(counted)) ?? 0;
}

async function ask(content: LocalContent, format: string, more: readonly string[]): Promise<Probe> {
  const text = await programText(
    {
      program: 'ffprobe',
      args: [
        ...['-v', 'error', ...more, '-show_format', '-show_streams', '-show_error', '-of', 'json'],
        ...(await inputOf(content, format)),
      ],
      // What it can make sense of counts, whatever it complains of.
      ...{ input: '', file: content.file, silenceMs, mayFail: true },
    },
    mostBytes,
  );
  if (text.trim() === '') throw new PlainError('the program ffprobe said nothing of it');
  const probe = probeSchema.parse(JSON.parse(text));
  if (probe.error) throw new PlainError(`ffprobe: ${probe.error.string}`);
  return probe;
}

function secondsOf({ format, streams }: Probe): number | null {
  const told = [format?.duration, ...streams.map(({ duration }) => duration)];
  const counted = streams.map(({ nb_read_packets: packets, avg_frame_rate: rate }) => {
    const framesPerSecond = rateOf(rate);
    return packets === undefined || framesPerSecond === null ? undefined : packets / framesPerSecond;
  });
  return [...told, ...counted].find((seconds) => seconds !== undefined && seconds > 0) ?? null;
}

function trackOf(stream: Stream): FilmFacts['tracks'][number] | null {
  const sort = sorts[stream.codec_type ?? ''];
  if (!sort) return null;
  return {
    sort,
    codec: stream.codec_name ?? 'unknown',
    width: sort === 'video' ? (stream.width ?? null) : null,
    height: sort === 'video' ? (stream.height ?? null) : null,
    framesPerSecond: sort === 'video' ? rateOf(stream.avg_frame_rate) : null,
    sampleRate: stream.sample_rate ?? null,
    channels: stream.channels ?? null,
    language: stream.tags.language === 'und' ? '' : (stream.tags.language ?? ''),
  };
}

function rateOf(fraction: string): number | null {
  const [over = 0, under = 0] = fraction.split('/').map(Number);
  return over > 0 && under > 0 ? over / under : null;
}
