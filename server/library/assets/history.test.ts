import { expect } from 'chai';
import { openEnd } from '../../acquire/builds/spans.ts';
import { stepsOf } from './history.ts';

const labels = new Map([1, 2, 3, 4, 5].map((sequence) => [sequence, `0.${sequence}`]));
const span = (firstSequence: number, lastSequence: number, hash: string) => ({
  firstSequence,
  lastSequence,
  hash,
  size: 1,
  format: 'png',
});
const told = (...spans: Parameters<typeof stepsOf>[0]) =>
  stepsOf(spans, labels).map(({ build, what }) => `${build} ${what}`);

describe('stepsOf', () => {
  it('tells appearing, changing, vanishing and coming back', () => {
    expect(told(span(1, 1, 'a'), span(2, 2, 'b'), span(4, openEnd, 'b'))).to.deep.equal([
      '0.1 appeared',
      '0.2 changed',
      '0.3 vanished',
      '0.4 came back',
    ]);
  });

  it('tells nothing where a span goes on as another with the same content', () => {
    expect(told(span(2, 3, 'a'), span(4, openEnd, 'a'))).to.deep.equal(['0.2 appeared']);
  });

  it('tells of a path that is gone for good', () => {
    expect(told(span(1, 4, 'a'))).to.deep.equal(['0.1 appeared', '0.5 vanished']);
  });

  it('says with which earlier build a content came back', () => {
    const steps = stepsOf([span(1, 1, 'a'), span(2, 2, 'b'), span(3, openEnd, 'a')], labels);
    expect(steps.map(({ build, sameAs }) => `${build} ${sameAs ?? '-'}`)).to.deep.equal([
      '0.1 -',
      '0.2 -',
      '0.3 0.1',
    ]);
  });
});
