import { plural, secondsText } from '../../figures.ts';
import { figure, sentenceOf, type Comparer } from '../comparing.ts';
import { ReadError } from '../reading.ts';
import { readMidi } from './midi.ts';

/** Compares the events of two MIDI files, as sets: their order within a file says nothing. */
export const compareNotes: Comparer = async (oldRequest, newRequest) => {
  const [old, now] = [readOne(oldRequest.bytes, oldRequest.path), readOne(newRequest.bytes, newRequest.path)];
  const gone = left(old.events, now.events);
  const added = left(now.events, old.events);
  const total = Math.max(1, old.events.length, now.events.length);
  const isSame = gone + added === 0;
  return {
    comparison: {
      kind: 'sound',
      nature: isSame ? 'same' : 'other',
      extent: Math.min(1, Math.max(gone, added) / total),
      sentence: sentenceOf(
        isSame ? ['the same notes'] : [`${plural(added, 'event')} new`, `${plural(gone, 'event')} gone`],
      ),
      figures: [
        ...figure('notes', old.facts.notes ?? 0, now.facts.notes ?? 0),
        ...figure('tracks', old.facts.channels, now.facts.channels),
        ...figure('length', secondsText(old.facts.seconds), secondsText(now.facts.seconds)),
        ...figure('instruments', old.facts.instruments.join(', '), now.facts.instruments.join(', ')),
      ],
      detail: null,
    },
    picture: null,
  };
};

function readOne(
  bytes: Uint8Array,
  path: string,
): { facts: ReturnType<typeof readMidi>['facts']; events: string[] } {
  if (bytes[0] !== 0x4d) throw new ReadError(`${path} has no notes: only one of the two is a MIDI file`);
  const { facts, content } = readMidi(bytes);
  return { facts, events: new TextDecoder().decode(content).split('\n').slice(1) };
}

/** How many of the events have no partner in the others. */
function left(events: readonly string[], others: readonly string[]): number {
  const counts = new Map<string, number>();
  for (const event of others) counts.set(event, (counts.get(event) ?? 0) + 1);
  let count = 0;
  for (const event of events) {
    const there = counts.get(event) ?? 0;
    if (there === 0) count++;
    else counts.set(event, there - 1);
  }
  return count;
}
