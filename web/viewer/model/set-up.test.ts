import { expect } from 'chai';
import { clipChoices, clipRows } from './clip-choices.ts';
import { maskOf, maskWords } from './mask-words.ts';
import { partKey, plainSetUp, setUpFrom, setUpWord } from './set-up.ts';

const said = (set: string | null) => ({ get: (name: string) => (name === 'set' ? set : null) });

describe('Set-ups of models', () => {
  it('stand in an address, and come back from it; what is as usual takes no room', () => {
    expect(setUpWord(plainSetUp)).to.equal(undefined);
    const word = setUpWord({
      ...plainSetUp,
      leftOut: ['ferry/rope'],
      props: [{ path: 'a.glb', on: 'hand', place: [0, 1, 0], turnDegrees: [0, 90, 0], scale: 2 }],
    });
    expect(setUpFrom(said(word ?? null))).to.deep.equal({
      ...plainSetUp,
      leftOut: ['ferry/rope'],
      props: [{ path: 'a.glb', on: 'hand', place: [0, 1, 0], turnDegrees: [0, 90, 0], scale: 2 }],
    });
    for (const bad of ['', '{', '[]', '{"layers":7}', '{"props":[{"path":"a","scale":0}]}', '9'.repeat(500)])
      expect(setUpFrom(said(bad)), bad).to.equal(null);
    expect(setUpFrom(said(null))).to.equal(null);
    expect(partKey({ above: ['ferry', 'body'], name: 'hull' })).to.equal('ferry/body/hull');
  });

  it('have masks that are typed as they are read', () => {
    const names = new Set(['spine', 'jaw']);
    const mask = maskOf(['spine and below', 'jaw', 'wing', '“eye”', 'tail and below', ' '], names);
    expect(mask).to.deep.equal({
      branches: ['spine'],
      words: ['wing', 'eye', 'tail and below'],
      bones: ['jaw'],
    });
    expect(maskOf(maskWords(mask), names)).to.deep.equal(mask);
  });
});

describe('Clips to choose from', () => {
  const own = [{ name: 'walk', seconds: 1, rate: 30 }];
  const other = (path: string, clip: string, isOfFamily: boolean) => ({
    ...{ path, clip, isOfFamily, seconds: 2, moved: 10, matched: 9 },
  });

  it('stand in their groups, found by words of their name and path; one group alone has no heading', () => {
    const choices = clipChoices(own, [other('heron_fly.glb', 'fly', true), other('stork.glb', 'fly', false)]);
    expect(choices.map(({ key }) => key)).to.deep.equal(['walk', 'heron_fly.glb#fly', 'stork.glb#fly']);
    const lines = (words: string, closed: string[] = []) =>
      clipRows(choices, words, new Set(closed)).map(
        ({ choice, group, count }) => choice?.key ?? `${group} ${count}`,
      );
    expect(lines('')).to.deep.equal([
      ...['own 1', 'walk', 'family 1', 'heron_fly.glb#fly', 'build 1', 'stork.glb#fly'],
    ]);
    expect(lines('FLY stork')).to.deep.equal(['build 1', 'stork.glb#fly']);
    expect(lines('', ['own', 'family', 'build'])).to.deep.equal(['own 1', 'family 1', 'build 1']);
    expect(clipRows(clipChoices(own, []), '', new Set()).map(({ key }) => key)).to.deep.equal(['walk']);
  });
});
