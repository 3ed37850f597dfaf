import { expect } from 'chai';
import { since, tablesState, type TablesState } from './tables-state.ts';

const build = (
  id: number,
  more: Partial<TablesState['builds'][number]> = {},
): TablesState['builds'][number] => ({
  ...{ id, sequence: id * 10, indexedAt: `day ${id}`, factsVersion: 1, factsRevision: 3 },
  ...more,
});
const state = (...builds: TablesState['builds']): TablesState => tablesState({ changes: 2, builds });

describe('What has come since tables were made', () => {
  it('is builds behind those that they know, and facts of those', () => {
    expect(since(state(build(1)), state(build(1)))).to.deep.equal({
      newest: 10,
      hasMoreBuilds: false,
      read: [],
    });
    expect(since(state(build(1)), state(build(1), build(2)))).to.deep.include({
      newest: 10,
      hasMoreBuilds: true,
    });
    const unread = build(2, { factsVersion: null, factsRevision: null });
    expect(since(state(build(1), unread), state(build(1), build(2)))?.read).to.deep.equal([20]);
    expect(since(state(build(1)), state(build(1, { factsRevision: 4 })))?.read).to.deep.equal([10]);
  });

  it('cannot be told where what they know has changed: then they are made anew', () => {
    const known = state(build(1), build(2));
    for (const now of [
      state(build(1)),
      state(build(2)),
      state(build(1), build(3), build(2)),
      state(build(1), build(2, { indexedAt: 'later' })),
      state(build(1), build(2, { sequence: 15 })),
      { ...known, changes: 3 },
      { ...known, readersVersion: -1 },
      { ...known, tablesVersion: -1 },
    ])
      expect(since(known, now)).to.equal(null);
    expect(since(state(), state(build(1)))).to.equal(null);
  });
});
