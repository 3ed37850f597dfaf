import type { SoundFacts } from '../../../../contract/facts.ts';
import { asItLay, type SoundSettings } from '../../../../contract/haul-settings.ts';

export const soundEndings = { wav: '.wav', flac: '.flac', ogg: '.ogg', opus: '.opus' } as const;

/** What a format cannot hold of a sound. */
export function lossesOfSound(
  { loops, cues, bits, coding }: Pick<SoundFacts, 'loops' | 'cues' | 'bits' | 'coding'>,
  settings: SoundSettings,
): string[] {
  const { as } = settings;
  if (as === asItLay) return [];
  const isPacked = as === 'ogg' || as === 'opus';
  const most = as === 'wav' ? 32 : 24;
  const kept = settings.bits === 'as decoded' ? most : Number(settings.bits);
  return [
    ...(isPacked ? ['the exact samples'] : (bits ?? 0) > kept ? [`more than ${kept} bits to a sample`] : []),
    ...(!isPacked && bits === null && coding !== '' && as === 'flac' ? ['floats'] : []),
    ...(loops.length > 1 && as !== 'wav' ? ['loops beside the first'] : []),
    ...(cues.length > 0 && as !== 'wav' ? ['marked places'] : []),
  ];
}
