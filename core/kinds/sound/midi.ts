import * as tone from '@tonejs/midi';
import type { SoundFacts } from '../../../contract/facts.ts';
import { ReadError } from '../reading.ts';

/** The package is no module of this kind everywhere: where it is not, all that it has is its default. */
const { Midi } = (tone as { default?: typeof tone }).default ?? tone;

export interface MidiReading {
  facts: SoundFacts;
  /** The events in an order of their own. */
  content: Uint8Array;
}

/** Standard MIDI Files 1.0: notes as events. There is nothing to hear without an instrument. @throws ReadError */
export function readMidi(bytes: Uint8Array): MidiReading {
  let midi: tone.Midi;
  try {
    midi = new Midi(new Uint8Array(bytes));
  } catch (error) {
    throw new ReadError(
      `this MIDI file cannot be read: ${error instanceof Error ? error.message : String(error)}`,
    );
  }
  const tracks = midi.tracks.filter(({ notes }) => notes.length > 0);
  const lines = [
    ...midi.header.tempos.map(({ ticks, bpm }) => `tempo ${ticks} ${bpm}`),
    ...tracks
      .map(({ channel, instrument, notes }) =>
        [
          `track ${channel} ${instrument.number}`,
          ...notes.map((note) => `${note.ticks} ${note.durationTicks} ${note.midi} ${note.velocity}`),
        ].join('\n'),
      )
      .sort(),
  ];
  return {
    facts: {
      kind: 'sound',
      seconds: midi.duration,
      sampleRate: 0,
      channels: tracks.length,
      peak: 0,
      loops: [],
      envelope: envelopeOfNotes(midi),
      coding: 'MIDI events',
      bits: null,
      cues: [],
      notes: tracks.reduce((sum, { notes }) => sum + notes.length, 0),
      instruments: [...new Set(tracks.map(({ instrument }) => instrument.name))].sort(),
    },
    content: new TextEncoder().encode(`midi ${midi.header.ppq}\n${lines.join('\n')}`),
  };
}

const envelopeSlices = 400;

/** How many notes sound in each slice of time, as the waveform of what cannot be heard. */
function envelopeOfNotes(midi: tone.Midi): string {
  const counts = new Float64Array(envelopeSlices);
  for (const { notes } of midi.tracks)
    for (const { time, duration } of notes) {
      const from = Math.floor((time / midi.duration) * envelopeSlices);
      const to = Math.min(
        envelopeSlices - 1,
        Math.ceil(((time + duration) / midi.duration) * envelopeSlices),
      );
      for (let slice = from; slice <= to; slice++) counts[slice] = (counts[slice] ?? 0) + 1;
    }
  const most = Math.max(1, ...counts);
  const envelope = new Int8Array(envelopeSlices * 2);
  counts.forEach((count, slice) => {
    envelope[slice * 2] = -Math.round((count / most) * 127);
    envelope[slice * 2 + 1] = Math.round((count / most) * 127);
  });
  return btoa(String.fromCharCode(...new Uint8Array(envelope.buffer)));
}
