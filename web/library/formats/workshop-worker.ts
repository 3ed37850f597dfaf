import { expose } from 'comlink';
import type { FieldPath, Run, ShownField } from '../../../core/formats/field-tree.ts';
import { drawGuess } from '../../../core/formats/guess/draw.ts';
import { formatChanges, type FormatChange } from '../../../core/formats/guess/format-changes.ts';
import {
  pixelGuesses,
  sampleGuesses,
  type PixelGuess,
  type SampleGuess,
} from '../../../core/formats/guess/images.ts';
import { mostSamples, proposalsFor } from '../../../core/formats/guess/propose.ts';
import type { Proposal, Sample } from '../../../core/formats/guess/proposal.ts';
import { waveOf } from '../../../core/formats/guess/wave.ts';
import { Workshop, type Outcome } from '../../../core/formats/workshop.ts';
import { sisterAddress } from './sister-address.ts';

/** Of larger files a sheet is tried on the beginning; their bytes are fetched when they are looked at. */
export const triedBytes = 64 * 1024 * 1024;

/** A file, and where its bytes come from. */
export interface OpenedFile {
  path: string;
  size: number;
  /** By which its bytes are fetched, as a whole or in ranges. */
  content: string;
  /** By its place in the build, so that files beside it are found. */
  address: string;
}

export interface DrawnGuess {
  guess: PixelGuess;
  width: number;
  height: number;
  rgba: Uint8ClampedArray<ArrayBuffer>;
}

export interface HeardGuess {
  guess: SampleGuess;
  /** As WAV. */
  wave: Uint8Array<ArrayBuffer>;
}

/** A thread that holds a file, and tries sheets on it. */
export class WorkshopThread {
  private file: OpenedFile | null = null;
  private bytes = new Uint8Array(0);
  private workshop: Workshop | null = null;

  async open(file: OpenedFile): Promise<void> {
    this.file = file;
    this.bytes = await fetched(file, 0, Math.min(file.size, triedBytes));
    this.workshop = new Workshop({
      ...{ bytes: this.bytes, path: file.path },
      resolve: async (name) => {
        const response = await fetch(sisterAddress(file.address, name));
        if (response.status === 404) return null;
        if (!response.ok) throw new Error(`The server answered with ${response.status}.`);
        return new Uint8Array(await response.arrayBuffer());
      },
    });
  }

  async tried(text: string, version: string | null): Promise<Outcome> {
    if (!this.workshop) throw new Error('no file is open');
    return this.workshop.tried(text, version);
  }

  fields(path: FieldPath, from: number, limit: number): { fields: ShownField[]; count: number } {
    return this.workshop?.fields(path, from, limit) ?? { fields: [], count: 0 };
  }

  /** What is seen of a file: bytes, and the fields that lie in them. */
  async window(begin: number, end: number): Promise<{ bytes: Uint8Array; runs: Run[] }> {
    const bytes =
      end <= this.bytes.length || !this.file
        ? this.bytes.slice(begin, end)
        : await fetched(this.file, begin, Math.min(end, this.file.size));
    return { bytes, runs: this.workshop?.runs(begin, end) ?? [] };
  }

  /** What the beginnings of several files say of their format. @param addresses where these lie */
  async proposals(addresses: readonly string[]): Promise<Proposal[]> {
    const samples = await Promise.all(addresses.slice(0, mostSamples).map(sampleAt));
    return proposalsFor(samples.filter((sample) => sample !== null));
  }

  /**
   * How the format changed since an older build, told from files that both have.
   * @param addresses where each lies in the older build, and in this one
   */
  async changes(addresses: readonly (readonly [string, string])[]): Promise<FormatChange[]> {
    const pairs = await Promise.all(
      addresses
        .slice(0, mostSamples)
        .map(async ([old, now]) => ({ old: await sampleAt(old), now: await sampleAt(now) })),
    );
    return formatChanges(pairs.flatMap(({ old, now }) => (old && now ? [{ old, now }] : [])));
  }

  /** How the bytes from one on may look as pixels, and sound as samples. */
  guesses(begin: number): { pictures: DrawnGuess[]; sounds: HeardGuess[] } {
    const bytes = this.bytes.subarray(begin, begin + guessedBytes);
    return {
      pictures: pixelGuesses(bytes).map((guess) => ({ guess, ...drawGuess(bytes, guess) })),
      sounds: sampleGuesses(bytes, 4).map((guess) => ({ guess, wave: waveOf(bytes, guess) })),
    };
  }

  /** Of a text: its lines, as far as it was fetched, and the rules that took them. */
  lines(): { text: string; runs: Run[] } {
    return this.workshop?.lines() ?? { text: '', runs: [] };
  }
}

const sampleBytes = 256 * 1024;
const guessedBytes = 2 * 1024 * 1024;

async function sampleAt(address: string): Promise<Sample | null> {
  const response = await fetch(address, { headers: { range: `bytes=0-${sampleBytes - 1}` } });
  if (!response.ok) return null;
  const bytes = new Uint8Array(await response.arrayBuffer());
  const size = Number(/\/(\d+)$/.exec(response.headers.get('content-range') ?? '')?.[1] ?? bytes.length);
  return { bytes, size };
}

async function fetched(
  { content, size }: OpenedFile,
  begin: number,
  end: number,
): Promise<Uint8Array<ArrayBuffer>> {
  if (end <= begin) return new Uint8Array(0);
  const isWhole = begin === 0 && end === size;
  const response = await fetch(content, isWhole ? {} : { headers: { range: `bytes=${begin}-${end - 1}` } });
  if (!response.ok)
    throw new Error(`The bytes cannot be fetched: the server answered with ${response.status}.`);
  return new Uint8Array(await response.arrayBuffer());
}

expose(new WorkshopThread());
