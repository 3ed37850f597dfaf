import { expect } from 'chai';
import type { WebGLRenderer } from 'three';
import { keepPrograms } from './renderers.ts';

type Programs = NonNullable<WebGLRenderer['info']['programs']>;

describe('programs of a renderer', () => {
  const made = (count: number): Programs =>
    Array.from({ length: count }, () => ({ usedTimes: 1 })) as unknown as Programs;
  const keep = (programs: Programs): void => keepPrograms({ info: { programs } as WebGLRenderer['info'] });

  it('outlive the materials that they were made for, each once', () => {
    const programs = made(3);
    keep(programs);
    keep(programs);
    expect(programs.map(({ usedTimes }) => usedTimes)).to.deep.equal([2, 2, 2]);
  });

  it('are given back beyond so many', () => {
    const programs = made(30);
    keep(programs);
    expect(programs.filter(({ usedTimes }) => usedTimes === 2).length).to.equal(24);
    // Once the library has thrown some away there is room again.
    const left = programs.slice(6);
    keep(left);
    expect(left.every(({ usedTimes }) => usedTimes === 2)).to.equal(true);
  });
});
