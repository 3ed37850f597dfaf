import { expect } from 'chai';
import { stateText } from './state-text.ts';

describe('stateText', () => {
  it('says in words what was said of a thing', () => {
    expect(stateText(null)).to.equal('nothing');
    expect(stateText('"how it was taken out"')).to.equal('how it was taken out');
    expect(stateText('{"role":"code name","meaning":"heron","saidBy":"","isRefused":false}')).to.equal(
      'role: code name; meaning: heron; refused: no',
    );
    expect(stateText('{"with":null}')).to.equal('nothing');
    expect(stateText('[{"name":"Buoys","form":"csv"},{"name":"Masts"}]')).to.equal('Buoys, Masts');
    expect(stateText('{"labels":["a","b"],"revision":7}')).to.equal('labels: a, b; revision: 7');
  });
});
