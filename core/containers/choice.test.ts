import { expect } from 'chai';
import { Choice, globOf, parentOf } from './choice.ts';

const leftOut = (globs: Partial<{ only: string[]; without: string[] }>, paths: string[]): string[] => {
  const choice = new Choice({ only: [], without: [], ...globs });
  return paths.filter((path) => choice.isLeftOut(path));
};
const paths = ['readme.txt', 'data/a.zip', 'data/a.zip!/in/b.png', 'data/c.zip!/d.png', 'voice/e.wav'];

describe('Choice', () => {
  it('takes everything where nothing is said', () => {
    expect(leftOut({}, paths)).to.deep.equal([]);
  });

  it('leaves out a folder or a container with all that is in it', () => {
    expect(leftOut({ without: ['data/a.zip', 'voice'] }, paths)).to.deep.equal([
      'data/a.zip',
      'data/a.zip!/in/b.png',
      'voice/e.wav',
    ]);
  });

  it('counts a glob without a slash in every folder, and one with a leading slash at the root alone', () => {
    expect(leftOut({ without: ['*.png'] }, paths)).to.deep.equal([
      'data/a.zip!/in/b.png',
      'data/c.zip!/d.png',
    ]);
    expect(leftOut({ without: ['/d.png'] }, paths)).to.deep.equal([]);
    expect(leftOut({ without: ['/readme.txt'] }, paths)).to.deep.equal(['readme.txt']);
  });

  it('takes only what is named, and goes through what leads there', () => {
    const choice = new Choice({ only: ['data/*.zip!/in/**'], without: [] });
    expect(paths.filter((path) => !choice.isLeftOut(path))).to.deep.equal(['data/a.zip!/in/b.png']);
    expect(
      ['data', 'data/c.zip', 'voice', 'data/c.zip!/other'].map((path) => choice.isOpened(path)),
    ).to.deep.equal([true, true, false, false]);
    expect(new Choice({ only: ['data/a.zip'], without: [] }).isLeftOut('data/a.zip!/in/b.png')).to.equal(
      false,
    );
  });

  it('lets `without` win', () => {
    expect(leftOut({ only: ['data/**'], without: ['*.png'] }, paths)).to.deep.equal([
      'readme.txt',
      'data/a.zip!/in/b.png',
      'data/c.zip!/d.png',
      'voice/e.wav',
    ]);
  });

  it('makes globs that name one path', () => {
    for (const name of ['a', 'b/[1] (x) {y}*?.zip', '!odd', 'c/+(d)@e', 'x\\y/z']) {
      const choice = new Choice({ only: [globOf(name)], without: [] });
      expect(choice.isLeftOut(name), name).to.equal(false);
    }
    expect(new Choice({ only: [globOf('b/[1].zip')], without: [] }).isLeftOut('b/1.zip')).to.equal(true);
  });
});

describe('parentOf', () => {
  it('goes out of folders and containers', () => {
    expect(parentOf('a.zip!/b/c')).to.equal('a.zip!/b');
    expect(parentOf('a.zip!/b')).to.equal('a.zip');
    expect(parentOf('a')).to.equal(null);
  });
});
