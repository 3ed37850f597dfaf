import type { SoundFacts } from '../../../contract/facts.ts';
import { identify } from '../identify.ts';
import { ReadError, readingOf, type ReadRequest, type Reader } from '../reading.ts';
import { decodeAiff } from './aiff.ts';
import { contentOf, type DecodedSound } from './decoded.ts';
import { envelopeOf } from './envelope.ts';
import { flacIntegers, streamInfo } from './flac.ts';
import { loopOfComments } from './loop-comments.ts';
import { checkMpegFrames } from './mpeg.ts';
import { checkOgg, opusPreSkip } from './ogg.ts';
import { cuePoints, riffChunks, sampleLoops } from './riff.ts';
import { soundSignature } from './signature.ts';
import { decodeWave } from './wav.ts';

export const readSound: Reader = async (request) => {
  const { bytes, path, bySheet } = request;
  const { format } = identify(bytes.subarray(0, 1024), path);
  if (format === 'midi' && !bySheet) {
    const { readMidi } = await import('./midi.ts');
    const { facts, content } = readMidi(bytes);
    return readingOf(facts, { decoded: [content] });
  }
  const { sound, loops, cues } = await soundOf(request, format);
  if (sound.channels === 0 || sound.frames === 0)
    throw new ReadError(sound.damage ?? 'no sound could be decoded from it');
  return readingOf(
    {
      kind: 'sound',
      seconds: sound.frames / sound.sampleRate,
      sampleRate: sound.sampleRate,
      channels: sound.channels,
      loops,
      ...envelopeOf(sound),
      coding: sound.coding,
      bits: sound.bits,
      cues,
      notes: null,
      instruments: [],
    },
    // What is heard in part only is no content that another could be equal to.
    {
      decoded: sound.damage === null ? contentOf(sound, loops, cues) : null,
      signature: soundSignature(sound),
      damage: sound.damage,
    },
  );
};

/** The sound of a request with what its file says beside it, by a sheet where one says how. @throws ReadError */
export async function soundOf(
  { bytes, bySheet }: ReadRequest,
  format: string,
): Promise<{ sound: DecodedSound } & Pick<SoundFacts, 'loops' | 'cues'>> {
  if (bySheet) return { ...(await bySheet.sound()), cues: [] };
  const sound = await decodeSound(bytes, format);
  return { sound, loops: await loopsOf(bytes, format, sound.frames), cues: cuesOf(bytes, format) };
}

/** Places that the `cue ` chunk of WAV marks, with their labels. */
function cuesOf(bytes: Uint8Array, format: string): SoundFacts['cues'] {
  return format === 'wav' ? cuePoints(bytes, riffChunks(bytes)) : [];
}

/** Loops as the file says them: the `smpl` chunk of WAV, or comments of the others. */
async function loopsOf(bytes: Uint8Array, format: string, frames: number): Promise<SoundFacts['loops']> {
  return format === 'wav' ? sampleLoops(bytes, riffChunks(bytes)) : loopOfComments(bytes, format, frames);
}

/** Decodes a sound of any format that has samples. @throws ReadError */
export async function decodeSound(bytes: Uint8Array, format: string): Promise<DecodedSound> {
  if (format === 'wav') return decodeWave(bytes);
  if (format === 'aiff') return decodeAiff(bytes);
  const { channelData, sampleRate } = await decodeAll(bytes, format);
  const channels = channelData.length;
  const frames = channelData[0]?.length ?? 0;
  const told = { sampleRate, channels, frames, bits: null };
  switch (format) {
    case 'flac': {
      const info = streamInfo(bytes);
      if (!info)
        throw new ReadError(
          'this FLAC file is cut short: its stream information, at byte 8, should have 34 bytes',
        );
      const { integers, isWhole } = await flacIntegers(channelData, info);
      return {
        ...told,
        coding: 'FLAC',
        bits: info.bits,
        samples: { integers },
        damage:
          shorter(frames, info.frames) ??
          (isWhole
            ? null
            : 'the file is damaged: its samples are not those that its own checksum (MD5) was made of'),
      };
    }
    case 'ogg':
    case 'opus': {
      const { lastGranule, damagedAt } = checkOgg(bytes);
      const promised =
        lastGranule === null ? null : lastGranule - (format === 'opus' ? opusPreSkip(bytes) : 0);
      const damage =
        damagedAt !== null
          ? `the file is damaged or cut short: the page at byte ${damagedAt} is not whole, ${frames} sample frames could be decoded`
          : promised === null
            ? `the file is cut short: its last page is missing, ${frames} sample frames could be decoded`
            : shorter(frames, promised);
      return {
        ...told,
        coding: format === 'opus' ? 'Opus' : 'Vorbis',
        samples: { floats: channelData },
        damage,
      };
    }
    case 'mp3':
      return { ...told, coding: 'MP3', samples: { floats: channelData }, damage: checkMpegFrames(bytes) };
    default:
      return {
        ...told,
        coding: `${format.toUpperCase()} module`,
        samples: { floats: channelData },
        damage: null,
      };
  }
}

function shorter(frames: number, promised: number): string | null {
  return frames < promised
    ? `the file is cut short: its header promises ${promised} sample frames, ${frames} could be decoded`
    : null;
}

async function decodeAll(
  bytes: Uint8Array,
  format: string,
): Promise<{ channelData: Float32Array[]; sampleRate: number }> {
  try {
    const { default: decode } = await import('audio-decode');
    return await decode(bytes);
  } catch (error) {
    const reason = error instanceof Error ? error.message : String(error);
    throw new ReadError(`it could not be decoded as ${format}: ${reason}`);
  }
}
