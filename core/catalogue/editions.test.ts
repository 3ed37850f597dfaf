import { expect } from 'chai';
import { editionEntrySchema, type EditionEntry } from '../../contract/editions.ts';
import { buildsOf } from './builds-of.ts';
import { entriesCsv, entriesJson } from './entry-table.ts';
import { feedsOf } from './feeds.ts';
import { isWithheld, withheldIn } from './withheld.ts';

function entry(id: number, more: Partial<EditionEntry> = {}, history: [string, string][] = []): EditionEntry {
  return editionEntrySchema.parse({
    ...{
      id,
      address: `${id}`,
      channel: 'main',
      name: `Thing ${id}`,
      internalName: '',
      names: [],
      aliases: [],
    },
    ...{
      thing: '',
      tags: [],
      summary: '',
      credits: '',
      sources: '',
      spoiler: false,
      rights: '',
      downloads: false,
    },
    ...{ relations: [], changedAt: '2026-05-01T10:00:00.000Z' },
    assets: [
      {
        ...{ path: `thing_${id}.png`, kind: 'picture', format: 'png', build: '2', firstBuild: '1', bytes: 5 },
        ...{ facts: '', preview: null, shown: null, envelope: null, loopSeconds: null, note: null },
        history: history.map(([build, what]) => ({ build, what })),
      },
    ],
    ...more,
  });
}

describe('What is withheld', () => {
  const withheld = {
    paths: new Set(['secret/body.glb']),
    hashes: new Set(['ab12']),
    ids: new Set([7]),
    names: ['Fog', 'Quiet One'],
  };
  it('is known by path, by content, and by what is shown with it', () => {
    const asset = { path: 'open.glb', hash: 'cd', resources: [] };
    expect(isWithheld(asset, withheld)).to.equal(false);
    expect(isWithheld({ ...asset, path: 'secret/body.glb' }, withheld)).to.equal(true);
    expect(isWithheld({ ...asset, hash: 'ab12' }, withheld)).to.equal(true);
    expect(isWithheld({ ...asset, hash: null, resources: ['ab12'] }, withheld)).to.equal(true);
  });

  it('is found in texts as whole words, in any case, and within no other word', () => {
    expect(withheldIn('Lies beside secret/body.glb.', withheld)).to.equal('secret/body.glb');
    expect(withheldIn('the QUIET-one stands there', withheld)).to.equal('Quiet One');
    expect(withheldIn('a foggy morning', withheld)).to.equal(null);
    expect(withheldIn('the fog', withheld)).to.equal('Fog');
    expect(withheldIn('', withheld)).to.equal(null);
  });
});

describe('What builds brought to a catalogue', () => {
  const builds = ['2', '1'].map((label) => ({ channel: 'main', label, releasedAt: '' }));
  it('is told by the histories of what entries show; spoilers are not told', () => {
    const found = buildsOf(builds, [
      entry(1, {}, [
        ['1', 'appeared'],
        ['2', 'changed'],
      ]),
      entry(2, {}, [['2', 'appeared']]),
      entry(3, {}, [
        ['1', 'appeared'],
        ['2', 'vanished'],
      ]),
      entry(4, { spoiler: true }, [['2', 'appeared']]),
      entry(5, { channel: 'other' }, [['2', 'appeared']]),
    ]);
    expect(found.map(({ label, added, changed, removed }) => [label, added, changed, removed])).to.deep.equal(
      [
        ['2', ['2'], ['1'], ['3']],
        ['1', ['1', '3'], [], []],
      ],
    );
  });
});

describe('Entries as tables', () => {
  it('are CSV by RFC 4180, in which nothing is taken for a formula', () => {
    const csv = entriesCsv([entry(1, { name: 'A "big", one', internalName: '=1+1', tags: ['x', 'y'] })]);
    expect(csv.split('\r\n')[0]).to.equal(
      'address,name,internal name,kind of thing,tags,first build,newest build,paths',
    );
    expect(csv.split('\r\n')[1]).to.equal(`1,"A ""big"", one",'=1+1,,x; y,1,2,thing_1.png`);
  });

  it('are JSON, a line for each, without what stays within the site', () => {
    const text = entriesJson([entry(1), entry(2)]);
    const read = JSON.parse(text) as { id: number; assets: object[] }[];
    expect(read.map(({ id }) => id)).to.deep.equal([1, 2]);
    expect(text.trim().split('\n')).to.have.length(4);
    expect(Object.keys(read[0]?.assets[0] ?? {})).not.to.include('shown');
  });
});

describe('Feeds', () => {
  const feed = { id: 'entries of T', title: 'T', rights: 'All <b>ours</b>', at: '2026-05-01T10:00:00.000Z' };
  const item = {
    id: 'entry 1',
    title: 'Reed & bell',
    path: 'entries/1.html',
    text: '<script>x</script>',
    at: feed.at,
  };

  it('say the same twice, with identifiers that do not hang on where they are served', () => {
    const here = feedsOf({ ...feed, address: 'https://a.example/', items: [item] });
    const there = feedsOf({ ...feed, address: 'https://b.example/', items: [item] });
    const id = (text: string): string | undefined => /<entry>.*?<id>(.*?)<\/id>/s.exec(text)?.[1];
    expect(id(here.atom)).to.equal(id(there.atom)).and.to.match(/^tag:/);
    expect(here.atom).to.include('href="https://a.example/entries/1.html"');
    expect(here).to.deep.equal(feedsOf({ ...feed, address: 'https://a.example/', items: [item] }));
  });

  it('hold text as text, and count from themselves where no address is known', () => {
    const { atom, json } = feedsOf({ ...feed, address: '', items: [item] });
    expect(atom).not.to.include('<script>');
    expect(atom).to.include('href="../entries/1.html"');
    const read = JSON.parse(json) as {
      version: string;
      authors: { name: string }[];
      items: { title: string }[];
    };
    expect(read.version).to.equal('https://jsonfeed.org/version/1.1');
    expect(read.authors).to.deep.equal([{ name: 'T' }]);
    expect(read.items[0]?.title).to.equal('Reed & bell');
  });
});
