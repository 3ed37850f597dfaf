import { expect } from 'chai';
import { stepOf } from './steps.ts';

describe('stepOf', () => {
  const sheet = { perRow: 5, perPage: 20 };

  it('goes by one, by a row and by what is seen at once', () => {
    const steps = ['ArrowLeft', 'ArrowRight', 'ArrowUp', 'ArrowDown', 'PageUp', 'PageDown'].map((key) =>
      stepOf(key, sheet, 90),
    );
    expect(steps).to.deep.equal([-1, 1, -5, 5, -20, 20]);
  });

  it('leads to either end, from wherever it begins', () => {
    expect([stepOf('Home', sheet, 90), stepOf('End', sheet, 90)]).to.deep.equal([-90, 90]);
  });

  it('leaves other keys alone, whatever they are called', () => {
    for (const key of ['k', 'Enter', 'Tab', 'toString', 'constructor'])
      expect(stepOf(key, sheet, 90), key).to.equal(undefined);
  });
});
