import { expect } from 'chai';
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import type { News } from '../../contract/news.ts';
import { writeReport } from './report.ts';

const noCounts = { added: 0, removed: 0, changed: 0, repacked: 0, moved: 0, copied: 0 };

function newsOf(more: Partial<News> = {}): News {
  return {
    title: 'Mossline Ferry',
    channel: 'main',
    from: '0.1',
    to: '0.2',
    evidence: 'done',
    summary: { ...noCounts, unchanged: 1234, leftOut: 0 },
    kinds: {},
    news: [],
    newsTotal: 0,
    families: [],
    freshParts: [],
    strings: [],
    stringsTotal: 0,
    untranslated: 0,
    growth: [],
    containers: [],
    folderMoves: [],
    folds: [],
    ...more,
  } as News;
}

const item = (path: string, evidence = 'it is new') => ({
  score: 40,
  status: 'added',
  kind: 'model',
  path,
  evidence,
  reasons: [{ why: 'a new model', points: 40 }],
});

describe('A report', () => {
  it('says so where nothing differs', () => {
    const text = writeReport(newsOf(), 'md');
    expect(text).to.match(/^# Mossline Ferry, main: what changed from 0\.1 to 0\.2\n/);
    expect(text).to.include('Nothing differs; 1,234 unchanged.');
    expect(text).not.to.include('What is new');
    expect(text).not.to.include('not compared to their end');
  });

  it('says what it does not know, and what was left out', () => {
    const text = writeReport(
      newsOf({
        evidence: 'running' as News['evidence'],
        summary: { ...noCounts, added: 2, changed: 1500, unchanged: 3, leftOut: 7 },
      }),
      'md',
    );
    expect(text).to.include('The contents were not compared to their end');
    expect(text).to.include('2 added, 1,500 changed; 3 unchanged, 7 left out of one build.');
  });

  it('lets no name of a file be taken for Markdown', () => {
    const text = writeReport(newsOf({ news: [item('a_b_*c*|[d](e)<f>`g`')] as News['news'] }), 'md');
    const row = text.split('\n').find((line) => line.includes('a new model')) ?? '';
    expect(row).to.include('a\\_b\\_\\*c\\*\\|\\[d\\](e)\\<f\\>\\`g\\`');
    // Bars that are no part of a name part five cells.
    expect(row.replaceAll('\\|', '').split('|')).to.have.length(7);
  });

  it('keeps a line of a table on one line, whatever a text says', () => {
    const text = writeReport(
      newsOf({
        strings: [{ language: 'en', key: 'k', old: null, value: 'one\n\ntwo\t three' }] as News['strings'],
        stringsTotal: 1,
        untranslated: 2,
      }),
      'md',
    );
    expect(text).to.include('| en | k |  | one two three |');
    expect(text).to.include('1 string new or changed, 2 untranslated.');
  });

  it('is a page of valid markup in which nothing that a game says can run', () => {
    const evil = '<script>alert("x")</script>&amp;"';
    const page = writeReport(
      newsOf({
        title: evil,
        news: [item(`models/${evil}.glb`, evil)] as News['news'],
        folds: [{ key: 'k', name: evil, isOn: true, hides: 3, fits: 3 }] as News['folds'],
        folderMoves: [{ from: evil, to: 'b', files: 2 }] as News['folderMoves'],
        containers: [{ path: evil, sentence: 'it grew' }] as News['containers'],
      }),
      'html',
    );
    expect(page).not.to.include('<script');
    // As XML it is well formed but for what HTML leaves open.
    const body = /<body>([\s\S]*)<\/body>/.exec(page)?.[1] ?? '';
    expect(XMLValidator.validate(`<body>${body}</body>`)).to.equal(true);
    const parsed = new XMLParser({ processEntities: true }).parse(`<body>${body}</body>`) as {
      body: { h1: string };
    };
    expect(parsed.body.h1).to.include('<script>alert("x")</script>&amp;"');
    expect(/<title>(.*)<\/title>/.exec(page)?.[1]).to.include('&lt;script&gt;');
  });

  it('is all of the news as JSON', () => {
    const news = newsOf({ news: [item('a.glb')] as News['news'] });
    expect(JSON.parse(writeReport(news, 'json'))).to.deep.equal(news);
  });

  it('is not longer than somebody reads', () => {
    const many = Array.from({ length: 500 }, (_, index) => item(`models/${index}.glb`));
    const lines = writeReport(newsOf({ news: many as News['news'] }), 'md').split('\n');
    expect(lines.filter((line) => line.includes('a new model'))).to.have.length(60);
  });
});
