import { expect } from 'chai';
import { dataOf } from './data-tree.ts';
import { soundStem, spokenIn } from './spoken.ts';

const spoken = async (text: string, format: string, stem: string) => {
  const { data } = await dataOf(text, format);
  return data ? spokenIn(data, stem) : [];
};

describe('Strings of voices', () => {
  it('knows a sound by its name in whatever folder, with or without an extension', () => {
    expect(soundStem('voices/en/Heron_Greet.ogg')).to.equal('heron_greet');
    expect(soundStem('bank.zip!/heron_greet')).to.equal('heron_greet');
  });

  it('finds them in tables, a column to a language', async () => {
    const csv = 'voice,en,de\nvoices/heron_greet.ogg,Mind the step!,Vorsicht Stufe!\nheron_bye,Bye,Servus\n';
    expect(await spoken(csv, 'csv', 'heron_greet')).to.deep.equal([
      { key: 'en', text: 'Mind the step!' },
      { key: 'de', text: 'Vorsicht Stufe!' },
    ]);
  });

  it('finds them under a key of the sound’s name, and beside a value that names it', async () => {
    const flat = '{"lines": {"heron_greet": "Mind the step!", "heron_bye": "Bye"}}';
    expect(await spoken(flat, 'json', 'heron_greet')).to.deep.equal([
      { key: 'lines', text: 'Mind the step!' },
    ]);
    const beside =
      '[{"id": 7, "sound": "voices/heron_greet.ogg", "text": "Mind the step!", "icon": "a/b.png"}]';
    expect(await spoken(beside, 'json', 'heron_greet')).to.deep.equal([
      { key: 'text', text: 'Mind the step!' },
    ]);
    const nested = 'heron_greet:\n  en: Mind the step!\n  de: Vorsicht Stufe!\n';
    expect(await spoken(nested, 'yaml', 'heron_greet')).to.deep.equal([
      { key: 'en', text: 'Mind the step!' },
      { key: 'de', text: 'Vorsicht Stufe!' },
    ]);
    expect(await spoken(flat, 'json', 'heron')).to.deep.equal([]);
  });
});
