import { expect } from 'chai';
import type { Kind } from '../../contract/kinds.ts';
import type { PlainFinding } from './find.ts';
import { rankNews, type FileNews, type NewsSource } from './rank-news.ts';

const finding = (path: string, kind: Kind, part: Partial<PlainFinding> = {}): PlainFinding => ({
  status: 'added',
  kind,
  format: 'binary',
  path,
  oldPath: null,
  size: 2000,
  oldSize: null,
  hash: 'n',
  oldHash: null,
  ...part,
});
const quiet: NewsSource = {
  fileOf: () => ({ users: 1, family: null }),
  judgedOf: () => null,
  freshPartsOf: () => [],
  cameBack: () => null,
  newStringsOf: () => 0,
};
const familyOf =
  (members: Record<string, string>, face: string) =>
  (path: string): FileNews => {
    const name = members[path];
    const files = Object.values(members).filter((other) => other === name).length;
    return {
      users: 1,
      family:
        name === undefined
          ? null
          : { id: Object.values(members).indexOf(name), name, isNew: true, files, isFace: path === face },
    };
  };
const paths = (findings: PlainFinding[], source: Partial<NewsSource> = {}): string[] =>
  rankNews(findings, { ...quiet, ...source }).map(({ finding: { path } }) => path);

describe('rankNews', () => {
  it('puts what players see and hear before scripts, also where these are new families', () => {
    const scripts = Array.from({ length: 30 }, (_, at) =>
      finding(`shaders/s${at >> 1}.${at & 1 ? 'vert' : 'frag'}`, 'text'),
    );
    const members = Object.fromEntries(
      scripts.map(({ path }) => [path, path.slice(0, path.lastIndexOf('.'))]),
    );
    const shown = paths(
      [
        ...scripts,
        finding('m/boat.glb', 'model'),
        finding('t/boat.png', 'picture'),
        finding('s/bell.ogg', 'sound'),
      ],
      {
        fileOf: (path) => {
          const name = members[path];
          return {
            users: 0,
            family: name
              ? {
                  id: Object.values(members).indexOf(name),
                  name,
                  isNew: true,
                  files: 2,
                  isFace: path.endsWith('frag'),
                }
              : null,
          };
        },
        freshPartsOf: () => ['never'],
      },
    );
    expect(shown.slice(0, 3)).to.have.members(['m/boat.glb', 's/bell.ogg', 't/boat.png']);
  });

  it('tells a family once, by its face, with how many others there are', () => {
    const members = { 'a_l0.glb': 'a', 'a_l1.glb': 'a', 'a_col.png': 'a', 'lone.glb': 'lone' };
    const ranked = rankNews(
      Object.keys(members).map((path) => finding(path, path.endsWith('png') ? 'picture' : 'model')),
      { ...quiet, fileOf: familyOf(members, 'a_l0.glb') },
    );
    expect(ranked.map(({ finding: { path } }) => path)).to.deep.equal(['a_l0.glb', 'lone.glb']);
    expect(ranked[0]?.reasons.map(({ why }) => why)).to.include(
      'the face of a new family, a, of 3 files, 2 more of them new',
    );
  });

  it('lets kinds take turns: a thousand icons do not hide the one map, nor one kind the others', () => {
    const icons = Array.from({ length: 1000 }, (_, at) =>
      finding(`icons/${String(at).padStart(4, '0')}.png`, 'picture'),
    );
    const shown = paths([
      ...icons,
      finding('z.glb', 'model'),
      finding('z.map', 'map'),
      finding('z.ogg', 'sound'),
    ]).slice(0, 5);
    expect(shown).to.include.members(['z.map', 'z.glb', 'z.ogg']);
  });

  it('puts new strings that players read on the first page', () => {
    const text = finding('text/en.po', 'text', { status: 'changed' });
    const models = Array.from({ length: 40 }, (_, at) => finding(`m/${at}.glb`, 'model'));
    const place = paths([...models, text], {
      newStringsOf: ({ path }) => (path === text.path ? 12 : 0),
    }).indexOf(text.path);
    expect(place).to.be.within(0, 10);
  });

  it('gives points that add up to the score, each with a reason, and leaves out what is no news', () => {
    const ranked = rankNews(
      [
        finding('new.glb', 'model'),
        finding('old.glb', 'model', { status: 'changed', oldPath: 'old.glb', oldHash: 'o' }),
        finding('same.glb', 'model', { status: 'repacked', oldPath: 'same.glb', oldHash: 'o' }),
        finding('gone.glb', 'model', { status: 'removed', hash: null }),
      ],
      {
        ...quiet,
        freshPartsOf: (path) => (path === 'new.glb' ? ['kraken'] : []),
        judgedOf: () => ({ nature: 'other', extent: 0.5 }),
      },
    );
    expect(ranked.map(({ finding: { path } }) => path)).to.deep.equal(['new.glb', 'old.glb', 'gone.glb']);
    for (const { score, reasons } of ranked)
      expect(reasons.reduce((sum, { points }) => sum + points, 0)).to.equal(score);
    expect(ranked[0]?.reasons.map(({ why }) => why)).to.include('a name never seen: kraken');
  });

  it('gives no points for names of tables and scripts', () => {
    const [text] = rankNews([finding('a/kraken_table.json', 'text')], {
      ...quiet,
      freshPartsOf: () => ['kraken'],
    });
    expect(text?.score).to.equal(1);
  });
});
