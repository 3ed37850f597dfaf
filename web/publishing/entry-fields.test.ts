import { expect } from 'chai';
import { entryDetailsSchema } from '../../contract/catalogue.ts';
import { lines, readLines } from './entry-fields.ts';

describe('Fields of an entry', () => {
  const details = entryDetailsSchema.parse({
    names: [
      { language: 'de', name: 'Weißer Reiher: der erste' },
      { language: 'pt-BR', name: 'Garça' },
    ],
    aliases: ['Snowy one', 'Old friend'],
    tags: ['bird', 'first isle'],
    relations: [
      { as: 'variant of', entry: 12 },
      { as: 'part of', entry: 3 },
    ],
  });

  it('are typed as they are shown', () => {
    const typed: Record<string, string> = Object.fromEntries(
      Object.entries(lines).map(([name, show]) => [name, show(details)]),
    );
    expect(typed.names).to.equal('de: Weißer Reiher: der erste\npt-BR: Garça');
    expect(typed.relations).to.equal('variant of 12\npart of 3');
    expect(entryDetailsSchema.parse(readLines((name) => typed[name] ?? ''))).to.deep.equal(details);
  });

  it('are refused where they cannot be told apart', () => {
    const refuses = (name: string, text: string): boolean =>
      !entryDetailsSchema.safeParse(readLines((field) => (field === name ? text : ''))).success;
    expect(refuses('names', 'Weißer Reiher')).to.equal(true);
    expect(refuses('names', 'german: Reiher')).to.equal(true);
    expect(refuses('relations', 'cousin of 3')).to.equal(true);
    expect(refuses('relations', 'part of')).to.equal(true);
    expect(refuses('relations', 'part of #3')).to.equal(false);
    expect(refuses('names', '')).to.equal(false);
  });
});
