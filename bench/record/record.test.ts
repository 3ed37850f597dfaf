import { expect } from 'chai';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { resultOf } from '../result.ts';
import { beyond } from './every-bench.ts';
import { readHistory, writeHistory, type BenchRun } from './history.ts';
import { benchmarksPage } from './page.ts';

const asked = {
  toOther: { what: 'ours / theirs', most: 0.5, quick: 1 },
  speed: { what: 'files a second', least: 100, quick: 50 },
  seconds: { what: 'all of it, s', most: 10 },
};
const result = (toOther: number, speed: number) =>
  resultOf('index', { speed, seconds: 9, files: 20_000 }, { toOther }, asked);

function runOf(parts: Partial<BenchRun>): BenchRun {
  return {
    bench: 'index',
    date: '2026-11-29T08:00:00.000Z',
    commit: 'abc',
    cores: 2,
    processor: 'any',
    load: 0.1,
    paceSeconds: 1.5,
    minutes: 5,
    result: result(0.4, 120),
    failure: null,
    ...parts,
  };
}

describe('What benchmarks gave', () => {
  it('meets what was asked where every figure does; one that is missing meets nothing', () => {
    expect(result(0.5, 100).met).to.equal(true);
    expect(result(0.51, 100).met).to.equal(false);
    expect(result(0.5, 99).met).to.equal(false);
    expect(resultOf('index', { speed: 100 }, {}, asked).met).to.equal(false);
    expect(result(NaN, 100).met).to.equal(false);
  });

  it('is worse than noise in a quick run beyond a wider limit, where there is one', () => {
    expect(beyond(result(1, 50))).to.deep.equal([]);
    expect(beyond(result(1.2, 40))).to.deep.equal([
      'index: ours / theirs: 1.2, and a quick run may give 1 at most',
      'index: files a second: 40, and a quick run may give 50 at least',
    ]);
    expect(beyond(result(NaN, 60))).to.have.length(1);
  });

  it('stands on a page: the last run of each, what was asked beside it, what failed with the reason', () => {
    const page = benchmarksPage(
      [
        runOf({ result: result(0.9, 120) }),
        runOf({ commit: 'def' }),
        runOf({
          bench: 'search',
          commit: null,
          result: null,
          failure: 'it took more than 8 minutes and was ended',
        }),
      ],
      ['index', 'search', 'read'],
    );
    expect(page).to.include('commit def').and.not.to.include('commit abc;');
    expect(page).to.include('| ours / theirs | 0.4 | at most 0.5 | met |');
    expect(page).to.include('Also: files 20,000.');
    expect(page).to.include('It failed: it took more than 8 minutes');
    expect(page).to.include('## read\n\nNot run yet.');
    expect(benchmarksPage([runOf({ result: result(0.6, 120) })], ['index'])).to.include('**not met**');
  });

  it('is kept run by run', () => {
    const folder = mkdtempSync(join(tmpdir(), 'worvel-test-'));
    try {
      const file = join(folder, 'history.json');
      expect(readHistory(file)).to.deep.equal([]);
      const runs = [runOf({}), runOf({ result: null, failure: 'no' })];
      writeHistory(file, runs);
      expect(readHistory(file)).to.deep.equal(runs);
    } finally {
      rmSync(folder, { recursive: true });
    }
  });
});
