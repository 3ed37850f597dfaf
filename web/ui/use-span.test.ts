import { expect } from 'chai';
import fc from 'fast-check';
import type { Build, Channel, Title } from '../../contract/builds.ts';
import { comparePath, labelsOf } from './compare-address.ts';
import { assetPath, spanOf, spanQuery, viewPath } from './use-span.ts';

const builds = ['0.1', '0.2', '0.3'].map((label) => ({ label })) as Build[];
const [first, second, third] = builds as [Build, Build, Build];
const placeOf = (title: string, channel: string) => ({
  title: { name: title } as Title,
  channel: { name: channel } as Channel,
});

describe('The span of an address', () => {
  const span = (query: string) => spanOf(builds, new URLSearchParams(query));

  it('is that of the newest two builds where nothing is said', () => {
    expect(span('')).to.deep.equal({ from: second, to: third });
    expect(spanOf([], new URLSearchParams())).to.deep.equal({ from: null, to: null });
    expect(spanOf([first], new URLSearchParams())).to.deep.equal({ from: null, to: first });
  });

  it('is one build alone where only that is picked', () => {
    expect(span('to=0.2')).to.deep.equal({ from: null, to: second });
  });

  it('goes over several builds, and falls back for builds that are gone', () => {
    expect(span('from=0.1&to=0.3')).to.deep.equal({ from: first, to: third });
    expect(span('from=9&to=0.3')).to.deep.equal({ from: second, to: third });
    expect(span('from=0.1&to=9')).to.deep.equal({ from: first, to: third });
  });

  it('stands in a query again as it was read', () => {
    for (const query of ['from=0.1&to=0.3', 'to=0.2']) expect(spanQuery(span(query))).to.equal(query);
    expect(labelsOf({ from: null, to: third })).to.deep.equal({ from: '0.3', to: '0.3' });
    expect(labelsOf({ from: null, to: null })).to.deep.equal({ from: '', to: '' });
  });
});

describe('Addresses', () => {
  it('carry any path, title and label whole', () => {
    const words = fc.string({ unit: 'grapheme', minLength: 1, maxLength: 30 });
    fc.assert(
      fc.property(words, words, words, words, (title, channel, path, build) => {
        const place = placeOf(title, channel);
        const url = new URL(assetPath(place, { from: null, to: third }, path, build), 'http://x');
        expect(url.searchParams.get('path')).to.equal(path);
        expect(url.searchParams.get('to')).to.equal(build);
        const [, titlePart = '', channelPart = '', view] = url.pathname.split('/');
        // The URL standard takes “.” and “..” for folders, however they are written.
        if (!/^\.{1,2}$/.test(title) && !/^\.{1,2}$/.test(channel))
          expect([decodeURIComponent(titlePart), decodeURIComponent(channelPart), view]).to.deep.equal([
            title,
            channel,
            'asset',
          ]);
        const compare = new URL(
          comparePath(place, { from: build, to: build }, { path, oldPath: `${path}.old` }),
          'http://x',
        );
        expect(compare.searchParams.get('oldPath')).to.equal(`${path}.old`);
      }),
      { seed: 5, numRuns: 300 },
    );
  });

  it('say the older path only where it is another one', () => {
    const place = placeOf('T', 'main');
    const builds = { from: '1', to: '2' };
    expect(comparePath(place, builds, { path: 'a', oldPath: 'a' })).not.to.include('oldPath');
    expect(comparePath(place, builds, { path: 'a', oldPath: null })).not.to.include('oldPath');
    expect(viewPath(placeOf('A/B', 'c d'), 'findings')).to.equal('/A%2FB/c%20d/findings');
  });
});
