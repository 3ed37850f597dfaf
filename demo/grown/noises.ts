import { seedOf, seeded } from '../seeded.ts';
import { call, sampleRate, water, wav } from '../sounds.ts';
import { birds } from './birds.ts';

/** What people walk on: how bright a step is, how long it rings, and how much of it crunches. */
const floors = {
  plank: [900, 0.09, 0.2],
  mud: [240, 0.12, 0.5],
  sand: [1800, 0.1, 0.9],
  moss: [420, 0.07, 0.6],
  shallow: [700, 0.16, 0.8],
  tin: [2400, 0.14, 0.15],
  rope: [600, 0.06, 0.4],
  thatch: [1300, 0.09, 0.85],
} as const;

function step(floor: keyof typeof floors, number: number): Float32Array {
  const [pitch, seconds, crunch] = floors[floor];
  const random = seeded(seedOf(`step ${floor} ${number}`));
  const samples = new Float32Array(Math.round(sampleRate * (seconds * 2 + 0.04)));
  let smooth = 0;
  for (const begin of [0, Math.round(sampleRate * seconds * (0.5 + random() * 0.2))])
    for (let at = begin; at < samples.length; at++) {
      const moment = (at - begin) / sampleRate;
      const fall = Math.exp(-moment / (seconds / 4));
      smooth += (random() * 2 - 1 - smooth) * Math.min(1, pitch / 4000);
      const ring = Math.sin(2 * Math.PI * pitch * moment);
      samples[at] = (samples[at] ?? 0) + 0.32 * fall * (crunch * smooth * 2 + (1 - crunch) * ring);
    }
  return samples;
}

/** Wood that turns on wood: ticks that come faster and slower. */
function creak(number: number): Float32Array {
  const random = seeded(seedOf(`creak ${number}`));
  const samples = new Float32Array(Math.round(sampleRate * (0.5 + random() * 0.5)));
  const pitch = 500 + random() * 700;
  for (let at = 0, next = 0, rate = 40 + random() * 40; at < samples.length; at++, next--) {
    if (next <= 0) {
      rate *= 0.9 + random() * 0.22;
      next = Math.round(sampleRate / rate);
      for (let tick = 0; tick < 120 && at + tick < samples.length; tick++)
        samples[at + tick] =
          (samples[at + tick] ?? 0) +
          0.3 * Math.exp(-tick / 30) * Math.sin((2 * Math.PI * pitch * tick) / sampleRate);
    }
  }
  return samples;
}

/** Short sounds of the marsh: steps on eight floors, calls of its birds, wood and water. */
export function noises(): [path: string, bytes: Uint8Array][] {
  const files: [string, Uint8Array][] = [];
  for (const floor of Object.keys(floors) as (keyof typeof floors)[])
    for (let number = 1; number <= 8; number++)
      files.push([`audio/steps/stp_${floor}_0${number}.wav`, wav(step(floor, number))]);
  for (const [at, { name }] of birds.entries())
    for (let number = 1; number <= 8; number++) {
      const from = 500 + at * 260 + number * 37;
      files.push([
        `audio/birds/${name}_call_0${number}.wav`,
        wav(call(from, from * (number % 2 ? 1.4 : 0.7), 0.3 + number * 0.05)),
      ]);
    }
  for (let number = 1; number <= 16; number++) {
    const name = String(number).padStart(2, '0');
    files.push([`audio/wood/crk_${name}.wav`, wav(creak(number))]);
    files.push([`audio/water/lap_${name}.wav`, wav(water(`lap ${number}`, 0.6 + (number % 4) * 0.2))]);
  }
  return files;
}
