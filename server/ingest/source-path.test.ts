import { expect } from 'chai';
import { homedir } from 'node:os';
import { normaliseSource } from './source-path.ts';

const onlyThere = new Set(['/games/ferry', '/games/my ferry', '/games/odd\\name', `${homedir()}/ferry`]);
const normalise = (pasted: string): string => normaliseSource(pasted, (path) => onlyThere.has(path));

describe('normaliseSource', () => {
  for (const pasted of [
    '/games/ferry',
    '/games/ferry/',
    '  "/games/ferry"  ',
    "'/games/ferry/'",
    '“/games/ferry”',
    '\\games\\ferry',
    '\\\\games\\\\ferry\\\\',
    'file:///games/ferry',
    'file://localhost/games/ferry/',
    '/games//ferry//',
  ]) {
    it(`takes ${pasted}`, () => expect(normalise(pasted)).to.equal('/games/ferry'));
  }

  it('takes spaces, escaped or as %20', () => {
    expect(normalise('/games/my\\ ferry')).to.equal('/games/my ferry');
    expect(normalise('file:///games/my%20ferry')).to.equal('/games/my ferry');
  });

  it('takes the home folder', () => {
    expect(normalise('~/ferry/')).to.equal(`${homedir()}/ferry`);
    expect(normalise('~\\ferry')).to.equal(`${homedir()}/ferry`);
  });

  it('leaves a name that really holds a backslash', () => {
    expect(normalise('/games/odd\\name')).to.equal('/games/odd\\name');
  });
});
