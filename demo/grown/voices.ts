import { seedOf, seeded } from '../seeded.ts';
import { flac, sampleRate } from '../sounds.ts';

const people = ['ferryman', 'lampwife', 'reedcutter', 'postgirl', 'netmaker'] as const;
/** What people say, in English and in German: a dozen each. */
const sayings: readonly (readonly [id: string, english: string, german: string])[] = [
  ['greet', 'Morning on the water.', 'Morgen auf dem Wasser.'],
  ['board', 'Step aboard, and mind the rope.', 'Steig ein, und gib auf das Tau acht.'],
  ['wait', 'Not before the lamp is lit.', 'Nicht, ehe die Lampe brennt.'],
  ['fog', 'I hear the stage, I do not see it.', 'Ich höre den Steg, ich sehe ihn nicht.'],
  ['heron', 'She stood there all night.', 'Sie stand die ganze Nacht dort.'],
  ['price', 'Two coins, one for the bird.', 'Zwei Münzen, eine für den Vogel.'],
  ['tide', 'The ebb waits for nobody.', 'Die Ebbe wartet auf niemanden.'],
  ['reed', 'Green reeds bend, dry ones break.', 'Grünes Schilf biegt sich, trockenes bricht.'],
  ['light', 'Ten lanterns, and one of them is mine.', 'Zehn Laternen, und eine davon ist meine.'],
  ['rain', 'Rain from the mill means a week of it.', 'Regen von der Mühle heißt eine Woche Regen.'],
  ['lost', 'You are on the wrong isle, child.', 'Du bist auf der falschen Insel, Kind.'],
  ['bye', 'Come back before the ice.', 'Komm wieder, ehe das Eis kommt.'],
];

/** A voice without words: syllables as long as the sentence has them, at the pitch of whoever speaks. */
function spoken(who: string, text: string): Float32Array {
  const random = seeded(seedOf(`${who} ${text}`));
  const pitch = 110 + (seedOf(who) % 130);
  const syllables = Math.max(3, Math.round(text.length / 3.2));
  const length = Math.round(sampleRate * 0.15);
  const samples = new Float32Array(syllables * length);
  let phase = 0;
  for (let syllable = 0; syllable < syllables; syllable++) {
    const tone = pitch * (0.85 + random() * 0.35 - (syllable / syllables) * 0.15);
    const [first, second] = [300 + random() * 500, 900 + random() * 1400];
    const isPause = random() < 0.12;
    for (let at = 0; at < length; at++) {
      const share = at / length;
      phase += tone / sampleRate;
      // A buzz, coloured by two hollows as a mouth has them.
      const buzz = ((phase % 1) * 2 - 1) * 0.5;
      const moment = at / sampleRate;
      const mouth =
        0.6 * Math.sin(2 * Math.PI * first * moment) + 0.4 * Math.sin(2 * Math.PI * second * moment);
      const swell = Math.sin(Math.PI * share) ** 0.7;
      samples[syllable * length + at] = isPause ? 0 : 0.45 * swell * buzz * (0.55 + 0.45 * mouth);
    }
  }
  return samples;
}

/** Sixty voices in two languages, and the tables that say what they say. */
export async function voices(): Promise<[path: string, bytes: Uint8Array | string][]> {
  const files: [string, Uint8Array | string][] = [];
  for (const [language, column] of [
    ['en', 1],
    ['de', 2],
  ] as const) {
    const rows = ['voice,who,text'];
    for (const who of people)
      for (const saying of sayings) {
        const [id, text] = [saying[0], saying[column]];
        const name = `vo_${who}_${id}`;
        files.push([`voices/${language}/${name}.flac`, await flac(spoken(who, text))]);
        rows.push(`${name},${who},"${text}"`);
      }
    files.push([`text/${language}/voices.csv`, `${rows.join('\n')}\n`]);
  }
  return files;
}
