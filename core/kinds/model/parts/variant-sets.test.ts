import { expect } from 'chai';
import { hiddenBy, shownVariant, variantGroups, variantIn } from './variant-sets.ts';

const named = (...names: (string | [string, ...string[]])[]) =>
  names.map((name, id) =>
    typeof name === 'string' ? { id, name, above: [] } : { id, name: name[0], above: name.slice(1) },
  );
const sets = (...names: (string | [string, ...string[]])[]) =>
  variantGroups(named(...names)).map(({ name, variants }) => [
    name,
    variants.map((variant) => `${variant.name}: ${variant.parts.join(' ')}`),
  ]);

describe('Variants of parts', () => {
  it('are told by a word with a number or a letter, however it is written', () => {
    expect(variantIn('cabin_var02')).to.deep.equal({ word: 'var', which: '2', rest: 'cabin' });
    expect(variantIn('CabinVariantB')).to.deep.equal({ word: 'variant', which: 'b', rest: 'cabin' });
    expect(variantIn('skin.3.Hull')).to.deep.equal({ word: 'skin', which: '3', rest: 'hull' });
    expect(variantIn('roof_alt')).to.deep.equal({ word: 'alt', which: '', rest: 'roof' });
  });

  it('are not told by copies with numbers, nor by words that are names of things', () => {
    for (const name of ['rail.001', 'rail_02', 'skin', 'style_gate', 'salt', 'altar', 'plank_a'])
      expect(variantIn(name), name).to.equal(null);
    expect(sets('rail.001', 'rail.002', 'skin')).to.deep.equal([]);
  });

  it('are sets that stand for one another, over all parts', () => {
    expect(sets('hull', 'cabin_var_a', 'roof_var_a', 'cabin_var_b', 'mast')).to.deep.equal([
      ['var', ['var a: 1 2', 'var b: 3']],
    ]);
    expect(sets(['door', 'style_10'], ['wall', 'style_2', 'house'], 'floor')).to.deep.equal([
      ['style', ['style 2: 1', 'style 10: 0']],
    ]);
  });

  it('have a plain one where a part has the same name without the word; one alone is none', () => {
    expect(sets('roof', 'roof_alt', 'wall')).to.deep.equal([['alt', ['plain: 0', 'alt: 1']]]);
    expect(sets('roof_alt', 'wall')).to.deep.equal([]);
    expect(sets('hull_var1', 'mast')).to.deep.equal([]);
  });

  it('are levels of detail, too, the finest first (common practice, no published source)', () => {
    expect(sets('hull_LOD2', 'hull_LOD0', 'hull_LOD1')).to.deep.equal([
      ['levels of detail in the file', ['lod 0: 1', 'lod 1: 2', 'lod 2: 0']],
    ]);
  });

  it('are switched as a whole', () => {
    const [group] = variantGroups(named('hull', 'cabin_var1', 'roof_var1', 'cabin_var2'));
    if (!group) throw new Error('no group');
    expect(hiddenBy(group, 'var 2')).to.deep.equal([1, 2]);
    expect(shownVariant(group, new Set([1, 2]))).to.equal('var 2');
    expect(shownVariant(group, new Set([3]))).to.equal('var 1');
    expect(shownVariant(group, new Set())).to.equal(null);
    expect(shownVariant(group, new Set([1]))).to.equal(null);
  });
});
