import { expect } from 'chai';
import { describeLists } from './title-settings.ts';

describe('describeLists', () => {
  const rule = (name: string, isOn = true): { name: string; isOn: boolean } => ({ name, isOn });

  it('names what is new, gone and changed', () => {
    expect(describeLists([], [rule('Buoys')])).to.equal('added “Buoys”');
    expect(describeLists([rule('Buoys'), rule('Masts')], [])).to.equal('removed “Buoys”, “Masts”');
    expect(describeLists([rule('Buoys')], [rule('Buoys', false)])).to.equal('changed “Buoys”');
    expect(describeLists([rule('a'), rule('b')], [rule('b', false), rule('c')])).to.equal(
      'added “c”, removed “a”, changed “b”',
    );
  });

  it('says so where only the order is another one', () => {
    expect(describeLists([rule('a'), rule('b')], [rule('b'), rule('a')])).to.equal('put in another order');
  });
});
