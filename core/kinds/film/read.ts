import { blake3 } from '@noble/hashes/blake3.js';
import { ALL_FORMATS, CustomSource, EncodedPacketSink, Input, type InputTrack } from 'mediabunny';
import type { FilmFacts } from '../../../contract/facts.ts';
import { identify, headLength } from '../identify.ts';
import { ReadError, previewSize, readingOf, type Raster, type ReadRequest, type Reader } from '../reading.ts';

/**
 * What the container of a film says, and a picture of it where the platform takes films apart. MP4, MOV, WebM and Matroska are
 * read here; AVI, Ogg and MPEG by the platform.
 */
export const readFilm: Reader = async (request) => {
  const { part, path, size, film } = request;
  const { format } = identify(part(0, Math.min(size, headLength)), path);
  try {
    const { facts, decoded } = readHere.has(format)
      ? await readTracks(request)
      : await readByPlatform(request);
    return readingOf(facts, { decoded, preview: await pictureOf(facts, film, request.raster) });
  } catch (error) {
    throw new ReadError(
      `this film cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
};

const readHere: ReadonlySet<string> = new Set(['mp4', 'webm']);

interface Told {
  facts: FilmFacts;
  decoded: Uint8Array[] | null;
}

async function readByPlatform({ film, size }: ReadRequest): Promise<Told> {
  if (!film) throw new Error('nothing here takes films of this format apart');
  return {
    facts: await film.facts(),
    decoded: size > largestBytes ? null : await film.tracks().catch(() => null),
  };
}

/** A tenth into it: what comes first is often black, or a sign. */
async function pictureOf(
  { seconds, tracks }: FilmFacts,
  film: ReadRequest['film'],
  raster: ReadRequest['raster'],
): Promise<Raster | null> {
  if (!film || !tracks.some(({ sort }) => sort === 'video')) return null;
  // Whoever looks at the film is told why it has no pictures; what it says of itself is worth having without.
  const picture = await film.picture(seconds / 10, previewSize).catch(() => null);
  return picture && (await raster(picture, previewSize));
}

async function readTracks({ size, part }: ReadRequest): Promise<Told> {
  const source = new CustomSource({
    getSize: () => size,
    read: (start, end) => part(start, Math.min(end, size)),
  });
  const input = new Input({ formats: ALL_FORMATS, source });
  const [format, seconds, tracks] = [
    await input.getFormat(),
    await input.computeDuration(),
    await input.getTracks(),
  ];
  if (tracks.length === 0)
    throw new Error('it has no track: it is cut short, or lacks its table of contents');
  return {
    facts: {
      kind: 'film',
      seconds,
      container: format.name,
      tracks: await Promise.all(tracks.map(trackOf)),
    },
    decoded: size > largestBytes ? null : await Promise.all(tracks.map(packetsOf)),
  };
}

/** Of larger films the packets are not gone through. */
const largestBytes = 256 * 1024 * 1024;

/** BLAKE3 of what a track is coded as, packet by packet: the same in whatever container. */
async function packetsOf(track: InputTrack): Promise<Uint8Array> {
  const hash = blake3.create();
  hash.update(new TextEncoder().encode(`${(await track.getCodecParameterString()) ?? ''}\n`));
  for await (const packet of new EncodedPacketSink(track).packets()) hash.update(packet.data);
  return hash.digest();
}

async function trackOf(track: InputTrack): Promise<FilmFacts['tracks'][number]> {
  const plain = {
    codec: String((await track.getCodecParameterString()) ?? track.codec ?? 'unknown'),
    width: null,
    height: null,
    framesPerSecond: null,
    sampleRate: null,
    channels: null,
    language: track.languageCode === 'und' ? '' : track.languageCode,
  };
  if (track.isVideoTrack()) {
    const { averagePacketRate } = await track.computePacketStats(120);
    return {
      ...plain,
      sort: 'video',
      width: track.displayWidth,
      height: track.displayHeight,
      framesPerSecond: averagePacketRate,
    };
  }
  if (track.isAudioTrack())
    return { ...plain, sort: 'audio', sampleRate: track.sampleRate, channels: track.numberOfChannels };
  return { ...plain, sort: 'subtitle' };
}
