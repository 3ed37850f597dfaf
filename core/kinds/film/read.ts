import { blake3 } from '@noble/hashes/blake3.js';
import { ALL_FORMATS, CustomSource, EncodedPacketSink, Input, type InputTrack } from 'mediabunny';
import type { FilmFacts } from '../../../contract/facts.ts';
import { ReadError, readingOf, type Reader } from '../reading.ts';

/** What the container of a film says: MP4, MOV, WebM, Matroska. Its pictures are not decoded. */
export const readFilm: Reader = async ({ size, part }) => {
  const source = new CustomSource({
    getSize: () => size,
    read: (start, end) => part(start, Math.min(end, size)),
  });
  const input = new Input({ formats: ALL_FORMATS, source });
  try {
    const [format, seconds, tracks] = [
      await input.getFormat(),
      await input.computeDuration(),
      await input.getTracks(),
    ];
    if (tracks.length === 0)
      throw new Error('it has no track: it is cut short, or lacks its table of contents');
    const facts: FilmFacts = {
      kind: 'film',
      seconds,
      container: format.name,
      tracks: await Promise.all(tracks.map(trackOf)),
    };
    return readingOf(facts, {
      decoded: size > largestBytes ? null : await Promise.all(tracks.map(packetsOf)),
    });
  } catch (error) {
    throw new ReadError(
      `this film cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
};

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
