import { expect } from 'chai';
import { plainLook, type Look } from '../engine/look.ts';
import { lookChanges, lookFrom, viewFrom, viewWord } from './look-address.ts';

const said = (words: Record<string, string | undefined>) => ({ get: (name: string) => words[name] ?? null });

describe('How a model is looked at, in an address', () => {
  it('comes out as it went in', () => {
    const look: Look = {
      ...{
        way: 'checker',
        hasWires: true,
        hasBones: true,
        bone: 'hand_l',
        hidden: new Set([3, 12]),
        part: 4,
      },
      ...{ hasBounds: true, section: { axis: 'y', share: 0.25 }, lightDegrees: 45, exposure: -1.5 },
    };
    expect(lookFrom(said(lookChanges(look)), [])).to.deep.equal(look);
    expect(lookFrom(said(lookChanges(plainLook)), [7])).to.deep.equal(plainLook);
  });

  it('needs no words for what is as usual; helpers are hidden until somebody says what is', () => {
    expect(lookFrom(said({}), [2, 5])).to.deep.equal({ ...plainLook, hidden: new Set([2, 5]) });
    expect(lookChanges({ way: 'textured', hasWires: false, exposure: 0 })).to.deep.equal({
      ...{ see: undefined, wires: undefined, exposure: undefined },
    });
    expect(lookChanges({ hidden: new Set() })).to.deep.equal({ hide: 'none' });
    expect(lookFrom(said({ hide: 'none' }), [2]).hidden.size).to.equal(0);
  });

  it('passes over what somebody typed wrong', () => {
    const odd = {
      see: 'toString',
      hide: '1.x.-3.99999999999',
      part: 'one',
      cut: 'w7',
      light: 'NaN',
      exposure: '1e9',
    };
    expect(lookFrom(said(odd), [])).to.deep.equal({ ...plainLook, hidden: new Set([1]), exposure: 6 });
  });

  it('has the place of the eye, and how much it sees in parallel projection', () => {
    const view = { position: [1.25, 2, -3e-6], target: [0, 0.5, 0] } as const;
    const tuple = { position: [...view.position], target: [...view.target] } as never;
    expect(viewFrom(said({ eye: viewWord(tuple) }))).to.deep.equal(view);
    expect(viewFrom(said({ eye: '1,2,3,0,0,0,4.5' }))?.height).to.equal(4.5);
    for (const wrong of ['', '1,2,3', '1,2,3,4,5,x', '0,0,0,0,0,0', '1,2,3,0,0,Infinity'])
      expect(viewFrom(said({ eye: wrong })), wrong).to.equal(null);
  });
});
