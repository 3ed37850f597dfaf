import type { Figure } from '../../../contract/comparisons.ts';
import { figure } from '../comparing.ts';

/** How a picture is to be shown, beside its pixels as they are stored. */
export interface Display {
  /** EXIF's orientation, 1 to 8; 1 is as it is stored. */
  orientation: number;
  /** Name of its colour profile; empty for none, and for sRGB, which is what none is shown as. */
  profile: string;
  /** Gamma of its file (PNG, chunk gAMA); null for none, and for that of sRGB. */
  gamma: number | null;
  /** How long each frame is shown, in milliseconds; empty where it does not move. */
  frameMs: readonly number[];
}

export const plainDisplay: Display = { orientation: 1, profile: '', gamma: null, frameMs: [] };

/** What it adds to a fingerprint: nothing where it is shown as it is stored. */
export function displayMark({ orientation, profile, gamma, frameMs }: Display): string {
  if (orientation === 1 && profile === '' && gamma === null && frameMs.length === 0) return '';
  return ` shown ${JSON.stringify([orientation, profile, gamma, frameMs])}`;
}

/** Orientations of EXIF (TIFF tag 274) as what is done to the stored picture. */
const turns = [
  'upright',
  'mirrored left to right',
  'turned by 180°',
  'mirrored top to bottom',
  'mirrored along a diagonal',
  'turned by 90°',
  'mirrored along the other diagonal',
  'turned by 270°',
];

/** What of it differs, in words and as figures. */
export function compareDisplays(old: Display, now: Display): { words: string[]; figures: Figure[] } {
  const turn = ({ orientation }: Display): string => turns[orientation - 1] ?? 'upright';
  const profile = (display: Display): string => display.profile || 'none';
  const gamma = (display: Display): string => (display.gamma === null ? 'none' : display.gamma.toFixed(3));
  const times = ({ frameMs }: Display): string => {
    const different = new Set(frameMs);
    return different.size === 1
      ? `${frameMs[0] ?? 0} ms`
      : `${frameMs.reduce((sum, ms) => sum + ms, 0)} ms in all`;
  };
  const words: string[] = [];
  if (old.orientation !== now.orientation)
    words.push(`it says that it is shown ${turn(now)} instead of ${turn(old)}`);
  if (old.profile !== now.profile) words.push(`colour profile ${profile(now)} instead of ${profile(old)}`);
  if (old.gamma !== now.gamma) words.push(`gamma ${gamma(now)} instead of ${gamma(old)}`);
  const isOther = old.frameMs.join() !== now.frameMs.join() && old.frameMs.length === now.frameMs.length;
  if (isOther) words.push(`each frame shown for ${times(now)} instead of ${times(old)}`);
  return {
    words,
    figures: [
      ...figure('orientation', turn(old), turn(now)),
      ...figure('colour profile', profile(old), profile(now)),
      ...figure('gamma', gamma(old), gamma(now)),
      ...(isOther ? figure('a frame is shown for', times(old), times(now)) : []),
    ],
  };
}

/** Gamma that sRGB is near to, as PNG writes it, and its files vary by. */
const [usualGamma, gammaStep] = [0.45455, 0.002];

/** What a PNG says before its pixels (Portable Network Graphics, chunk gAMA). */
export function gammaOfPng(bytes: Uint8Array): number | null {
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  if (bytes.length < 33 || view.getUint32(0) !== 0x89504e47) return null;
  for (let at = 8; at + 12 <= bytes.length;) {
    const length = view.getUint32(at);
    const type = view.getUint32(at + 4);
    // IDAT: what comes from here on are pixels. sRGB says all that is to be said.
    if (type === 0x49444154 || type === 0x73524742) return null;
    if (type === 0x67414d41 && length === 4) {
      const gamma = view.getUint32(at + 8) / 100_000;
      return Math.abs(gamma - usualGamma) < gammaStep ? null : gamma;
    }
    at += 12 + length;
  }
  return null;
}

/** The name in a colour profile (ICC.1, tag `desc`); empty for sRGB. One without a name goes by its size. */
export function nameOfProfile(profile: Uint8Array): string {
  const view = new DataView(profile.buffer, profile.byteOffset, profile.byteLength);
  const named = (): string => {
    if (profile.length < 132) return '';
    const count = Math.min(100, view.getUint32(128));
    for (let tag = 0; tag < count; tag++) {
      const entry = 132 + tag * 12;
      if (entry + 12 > profile.length || view.getUint32(entry) !== 0x64657363) continue;
      const [at, size] = [view.getUint32(entry + 4), view.getUint32(entry + 8)];
      if (at + size > profile.length || size < 16) return '';
      const type = view.getUint32(at);
      // `desc`: ASCII with its length in front; `mluc`: UTF-16 of the first language.
      if (type === 0x64657363) {
        const length = Math.min(size - 12, view.getUint32(at + 8));
        return new TextDecoder('latin1').decode(profile.subarray(at + 12, at + 12 + Math.max(0, length - 1)));
      }
      if (type === 0x6d6c7563 && size >= 28) {
        const [length, offset] = [view.getUint32(at + 20), view.getUint32(at + 24)];
        if (offset + length <= size)
          return new TextDecoder('utf-16be').decode(profile.subarray(at + offset, at + offset + length));
      }
    }
    return '';
  };
  const name = named().replaceAll('\0', '').trim();
  if (/srgb/i.test(name)) return '';
  return name === '' ? `a profile of ${profile.length} bytes` : name;
}
